import { hierarchy, treemap } from 'd3-hierarchy';
import { useMemo } from 'react';
import { countStates } from '#core/survey';
import { topFolder } from '#core/paths';
import { bytes, counted } from '~/parts/format';
import { useAddress } from '~/parts/use-address';
import type { SurveyedFile } from '~/reckoning/views';

const WIDTH = 660;
const HEIGHT = 250;
const FILL = {
  true: 'var(--teal-wash)',
  altered: 'url(#hatch)',
  absent: 'url(#crosses)',
  stray: 'url(#bars)',
} as const;

interface Area {
  name: string;
  size: number;
  states: ReturnType<typeof countStates>;
}

/** Folders as areas by bytes, each filled from the left by the states of its files. A click shows its files below. */
export function FolderMap({ files, folder }: { files: readonly SurveyedFile[]; folder: string | undefined }) {
  const address = useAddress();
  const areas = useMemo(() => {
    const byFolder = new Map<string, SurveyedFile[]>();
    for (const file of files) {
      const name = topFolder(file.path);
      byFolder.set(name, [...(byFolder.get(name) ?? []), file]);
    }
    const children = [...byFolder].map(([name, inside]): Area => ({
      name,
      size: inside.reduce((sum, { size }) => sum + size, 0),
      states: countStates(inside),
    }));
    const root = hierarchy<{ children?: Area[] } | Area>({ children }).sum((d) =>
      'size' in d ? Math.max(d.size, 4e5) : 0,
    );
    return treemap<{ children?: Area[] } | Area>().size([WIDTH, HEIGHT]).paddingInner(3)(root).leaves();
  }, [files]);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      width="100%"
      style={{ display: 'block', padding: 12 }}
      role="group"
      aria-label="Folders by bytes"
    >
      {areas.map(({ x0, y0, x1, y1, data }) => {
        const { name, size, states } = data as Area;
        let x = x0;
        const current = folder === name;
        const next = { folder: current ? undefined : name };
        const wrong = (['altered', 'absent', 'stray'] as const).filter((state) => states[state].files > 0);
        const told = wrong.map((state) => `${states[state].files} ${state}`).join(', ') || 'all true';
        return (
          <a
            key={name}
            href={address.with(next)}
            aria-label={`${name}: ${bytes(size)}, ${told}`}
            onClick={(event) => {
              event.preventDefault();
              address.set(next);
            }}
          >
            <title>{`${name}: ${counted(states.true.files, 'true file')}, ${told}`}</title>
            {(['true', 'altered', 'absent', 'stray'] as const).map((state) => {
              const share = states[state].bytes / Math.max(1, size);
              // A state that is there is seen, however few its bytes are.
              const width = states[state].files === 0 ? 0 : Math.max(3, share * (x1 - x0));
              const rect = (
                <rect
                  key={state}
                  x={x}
                  y={y0}
                  width={Math.min(width, Math.max(0, x1 - x))}
                  height={y1 - y0}
                  fill={FILL[state]}
                />
              );
              x += width;
              return rect;
            })}
            <rect
              x={x0}
              y={y0}
              width={x1 - x0}
              height={y1 - y0}
              fill="none"
              stroke={current ? 'var(--blue)' : 'var(--soft)'}
              strokeWidth={current ? 3 : 1}
            />
            {x1 - x0 > 6 * name.length + 6 && y1 - y0 > 15 && (
              <text
                x={x0 + 5}
                y={y0 + 12}
                fontSize="11"
                fill="var(--ink)"
                stroke="var(--panel)"
                strokeWidth="3"
                paintOrder="stroke"
              >
                {name}
              </text>
            )}
          </a>
        );
      })}
    </svg>
  );
}
