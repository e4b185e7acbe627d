import { Button, NativeSelect } from '@mantine/core';
import { useState } from 'react';
import type { ModId } from '#core/builds';
import type { OrderRule } from '#core/mods';
import { addOrderRule, dropOrderRule } from '~/commands';
import { FormButtons } from '~/parts/FormButtons';
import { Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { OrderView } from '~/queries';
import { byWords, circleWords, nameOf, type Names, ruleWords } from './order-words';
import styles from './order.module.css';

const GOES: readonly (readonly [OrderRule['goes'], string])[] = [
  ['before', 'before another mod'],
  ['after', 'after another mod'],
  ['first', 'first of all'],
  ['last', 'last of all'],
];

/** A rule of one's own for a mod. */
export function RuleForm({
  mod,
  view,
  names,
  at,
  onClose,
}: {
  mod: ModId;
  view: OrderView;
  names: Names;
  at: Attempts;
  onClose: () => void;
}) {
  const { install } = useFrame();
  const others = view.order.filter((id) => id !== mod);
  const [goes, setGoes] = useState<OrderRule['goes']>(others.length > 0 ? 'before' : 'first');
  const [other, setOther] = useState(others[0]);
  const isRelative = goes === 'before' || goes === 'after';
  return (
    <form
      aria-label={`Rule for ${nameOf(names, mod)}`}
      onSubmit={(event) => {
        event.preventDefault();
        if (isRelative && other === undefined) return;
        const rule: OrderRule = isRelative ? { mod, goes, other: other! } : { mod, goes };
        at.attempt(async () => {
          await addOrderRule(install.id, rule);
          onClose();
        });
      }}
    >
      <NativeSelect
        size="xs"
        label={`${nameOf(names, mod)} is loaded`}
        data={GOES.filter(([one]) => others.length > 0 || one === 'first' || one === 'last').map(([value, label]) => ({
          value,
          label,
        }))}
        value={goes}
        onChange={({ currentTarget: { value } }) => setGoes(GOES.find(([one]) => one === value)![0])}
      />
      {isRelative && (
        <NativeSelect
          mt={6}
          size="xs"
          label="Other mod"
          data={others.map((id) => ({ value: id, label: nameOf(names, id) }))}
          value={other}
          onChange={({ currentTarget: { value } }) => setOther(others.find((id) => id === value))}
        />
      )}
      <FormButtons submit="Add the rule" busy={at.busy} onCancel={onClose} />
    </form>
  );
}

/** All rules that bear on the mods, and those that cannot be kept. */
export function OrderRules({ view, names, at }: { view: OrderView; names: Names; at: Attempts }) {
  const { install } = useFrame();
  const broken = new Map(view.broken.map((one) => [one.rule, one]));
  return (
    <section aria-label="Rules">
      <h2 className={`label ${parts.heading}`}>Rules</h2>
      {view.rules.length === 0 && (
        <p className="quiet" style={{ padding: '0 16px' }}>
          None. What a mod needs is loaded before it anyway.
        </p>
      )}
      <ul className={styles.rules}>
        {view.rules.map((stated) => {
          const words = ruleWords(stated.rule, names);
          const wrong = broken.get(stated.rule);
          return (
            <li key={`${stated.by ?? ''} ${words}`}>
              <span className={parts.grow}>
                {words}
                <div className="quiet">by {byWords(stated, names)}</div>
                {wrong && <Notice tone="wrong">{circleWords(wrong, names)}</Notice>}
              </span>
              {stated.by === undefined && (
                <Button
                  size="compact-xs"
                  variant="default"
                  aria-label={`Take back ${words}`}
                  disabled={at.busy}
                  onClick={() => at.attempt(() => dropOrderRule(install.id, stated.rule))}
                >
                  Take back
                </Button>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
