import { Checkbox, NumberInput } from '@mantine/core';
import { useState } from 'react';
import { canTell, tellsWhenDone, setTellsWhenDone } from '~/parts/notices';
import { Notice } from '~/parts/parts';
import { rateLimit, setRateLimit } from '~/store';

const MB = 1e6;

/** How fast a fetch may be, and whether its end is told. */
export function FetchSettings() {
  const [limit, setLimit] = useState<number | undefined>(rateLimit);
  const [tells, setTells] = useState(tellsWhenDone);
  const [isRefused, setRefused] = useState(false);
  const change = (given: string | number): void => {
    const next = Number(given) > 0 ? Number(given) * MB : undefined;
    setLimit(next);
    setRateLimit(next);
  };
  return (
    <details>
      <summary>Rate and notice</summary>
      <NumberInput
        size="xs"
        label="At most, in MB a second"
        description="Holds for a running fetch too, from its next files on"
        placeholder="no limit"
        min={0}
        decimalScale={2}
        value={limit === undefined ? '' : limit / MB}
        onChange={change}
      />
      {canTell() && (
        <Checkbox
          mt={8}
          size="xs"
          label="Notify me when it has ended"
          checked={tells}
          onChange={({ currentTarget: { checked } }) =>
            void setTellsWhenDone(checked).then((granted) => {
              setTells(granted);
              setRefused(checked && !granted);
            })
          }
        />
      )}
      {isRefused && <Notice>The browser does not allow notices for this page. Its settings can.</Notice>}
    </details>
  );
}
