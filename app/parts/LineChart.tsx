import { LineChart as Lines } from 'echarts/charts';
import { AriaComponent, GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components';
import { type ComposeOption, init, use as register } from 'echarts/core';
import type { LineSeriesOption } from 'echarts/charts';
import type { GridComponentOption, TooltipComponentOption } from 'echarts/components';
import { SVGRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';

register([Lines, GridComponent, TooltipComponent, MarkLineComponent, AriaComponent, SVGRenderer]);

type Option = ComposeOption<LineSeriesOption | GridComponentOption | TooltipComponentOption>;

export interface Line {
  readonly name: string;
  /** One for each label. */
  readonly values: readonly number[];
  /** The one that is looked at is filled; the others are there to compare with, drawn thin and dashed. */
  readonly main: boolean;
}

export interface LineChartProps {
  /** What a screen reader is told. */
  readonly label: string;
  readonly labels: readonly string[];
  readonly lines: readonly Line[];
  readonly format: (value: number) => string;
  /** A line across that must not be passed. */
  readonly limit?: { readonly name: string; readonly value: number } | undefined;
  /** What the picture reaches up to at least. */
  readonly most: number;
}

const TEXT = { color: 'var(--soft)', fontFamily: 'inherit', fontSize: 11 };

function optionOf({ label, labels, lines, format, limit, most }: LineChartProps): Option {
  return {
    animation: false,
    aria: { enabled: true, label: { description: label } },
    grid: { left: 4, right: 4, top: 14, bottom: 18, containLabel: false },
    tooltip: {
      trigger: 'axis',
      valueFormatter: (value) => format(Number(value)),
      axisPointer: { lineStyle: { color: 'var(--soft)' } },
    },
    xAxis: {
      type: 'category',
      boundaryGap: false,
      data: [...labels],
      axisTick: { show: false },
      axisLine: { lineStyle: { color: 'var(--line)' } },
      axisLabel: { ...TEXT, interval: 0, alignMinLabel: 'left', alignMaxLabel: 'right' },
    },
    yAxis: {
      type: 'value',
      show: false,
      min: 0,
      max: Math.max(most, limit && limit.value <= 1.5 * most ? limit.value : 0) * 1.1,
    },
    series: lines.map(({ name, values, main }): LineSeriesOption => ({
      ...{ type: 'line', name, data: [...values], symbol: 'none', silent: true },
      lineStyle: { color: 'var(--blue)', width: main ? 2 : 1, type: main ? 'solid' : 'dashed' },
      itemStyle: { color: 'var(--blue)' },
      ...(main && { areaStyle: { color: 'var(--blue-wash)', opacity: 1 } }),
      ...(main &&
        limit && {
          markLine: {
            ...{ silent: true, symbol: 'none', data: [{ yAxis: limit.value }] },
            lineStyle: { color: 'var(--brick)', type: 'dashed' },
            label: { ...TEXT, formatter: limit.name, position: 'insideStartTop' },
          },
        }),
    })),
  };
}

/** Values over a course, as lines. The module is large: it is loaded when the first chart is shown. */
export default function LineChart(props: LineChartProps) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const chart = init(box.current, undefined, { renderer: 'svg' });
    chart.setOption(optionOf(props));
    const observer = new ResizeObserver(() => chart.resize());
    observer.observe(box.current!);
    return () => {
      observer.disconnect();
      chart.dispose();
    };
  }, [props]);
  return <div ref={box} style={{ width: '100%', height: 130 }} />;
}
