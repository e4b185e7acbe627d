import { Button, NumberInput } from '@mantine/core';
import { useEffect, useState } from 'react';
import { useFrame } from '~/parts/use-frame';
import { sourceOf } from '~/places';
import { bytes } from '~/parts/format';
import { Pairs, Section } from '~/parts/parts';
import { broadcast, type Install, updateInstall } from '~/store';

/** Free bytes as the folder's adapter tells them; undefined where it does not. */
function useFree(install: Install): { known: boolean; free: number | undefined } {
  const [answer, setAnswer] = useState<{ of: string; free: number | undefined }>();
  const { id, tree, changedAt } = install;
  useEffect(() => {
    let wanted = true;
    // A folder that cannot be opened now tells nothing of its drive; Survey says elsewhere why it cannot.
    void sourceOf(install, tree)
      .then(({ reader }) => reader.room())
      .catch(() => undefined)
      .then((room) => wanted && setAnswer({ of: id, free: room?.free }));
    return () => void (wanted = false);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the install is a new object at each load
  }, [id, tree, changedAt]);
  return { known: answer?.of === id, free: answer?.of === id ? answer.free : undefined };
}

/** Free space: as the folder tells it, or as the person says. */
export function Room() {
  const { install } = useFrame();
  const { known, free } = useFree(install);
  const [said, setSaid] = useState<number | string>('');
  const say = async (): Promise<void> => {
    await updateInstall(install.id, (now) => ({ ...now, freeBytes: Number(said) * 1e9 }));
    broadcast({ type: 'changed' });
  };
  return (
    <>
      <Section>Free space</Section>
      {free !== undefined ? (
        <Pairs rows={[{ name: 'Free', value: bytes(free) }]} />
      ) : (
        known && (
          <form
            onSubmit={(event) => {
              event.preventDefault();
              void say();
            }}
          >
            {install.freeBytes !== undefined && (
              <Pairs rows={[{ name: 'Free, as you entered', value: bytes(install.freeBytes) }]} />
            )}
            <NumberInput
              size="xs"
              label="The browser does not report free space here. Free space in GB"
              min={0}
              decimalScale={1}
              value={said}
              onChange={setSaid}
            />
            <Button mt={6} size="xs" variant="default" type="submit" disabled={said === ''}>
              Set free space{said === '' ? '' : ` to ${said} GB`}
            </Button>
          </form>
        )
      )}
    </>
  );
}
