import { Button, Modal } from '@mantine/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { errorWords } from '~/parts/failure-words';
import { Buttons, Notice } from '~/parts/parts';
import type { Finding } from './dropped-finding';

/** Says what was dropped, and does with it what the person wants. */
export default function DroppedDialog({
  finding,
  failure: unreadable,
  onClose,
}: {
  finding: Finding | undefined;
  failure: string | undefined;
  onClose: () => void;
}) {
  const navigate = useNavigate();
  const [refused, setRefused] = useState<string>();
  const [busy, setBusy] = useState(false);
  const failure = refused ?? unreadable;

  async function act(run: NonNullable<Finding['run']>): Promise<void> {
    setBusy(true);
    try {
      const page = await run();
      onClose();
      await navigate(page);
    } catch (error) {
      const { what, next } = errorWords(error);
      setRefused(`${what} ${next}`);
      setBusy(false);
    }
  }

  return (
    <Modal opened onClose={onClose} title={finding?.title ?? (failure ? 'Cannot be read' : 'Identifying')}>
      {finding && <p>{finding.says}</p>}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        {finding?.run && (
          <Button data-autofocus loading={busy} onClick={() => void act(finding.run!)}>
            {finding.act}
          </Button>
        )}
        {finding?.other && (
          <Button variant="default" loading={busy} onClick={() => void act(finding.other!.run)}>
            {finding.other.act}
          </Button>
        )}
        <Button variant="default" onClick={onClose}>
          {finding?.run ? 'Cancel' : 'Close'}
        </Button>
      </Buttons>
    </Modal>
  );
}
