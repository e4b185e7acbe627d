import { Button, Modal } from '@mantine/core';
import type { ReactNode } from 'react';
import { Buttons, Notice } from './parts';
import { useAttempt } from './use-attempt';

/** Asks before something is done: what a person has to know or decide first, and the act. */
export function AskDialog({
  title,
  act,
  onAct,
  onClose,
  children,
}: {
  title: string;
  /** What the button says that does it. */
  act: ReactNode;
  onAct: () => Promise<unknown>;
  onClose: () => void;
  children: ReactNode;
}) {
  const { attempt, busy, failure } = useAttempt();
  return (
    <Modal opened size="lg" onClose={onClose} title={title}>
      {children}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        <Button
          data-autofocus
          loading={busy}
          onClick={() =>
            attempt(async () => {
              await onAct();
              onClose();
            })
          }
        >
          {act}
        </Button>
        <Button variant="default" onClick={onClose}>
          Cancel
        </Button>
      </Buttons>
    </Modal>
  );
}
