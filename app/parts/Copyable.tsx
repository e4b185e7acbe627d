import { Button, CopyButton } from '@mantine/core';

/** Copies a text that one wants elsewhere: a path, a digest. */
export function Copyable({ text, what }: { text: string; what: string }) {
  return (
    <CopyButton value={text}>
      {({ copied, copy }) => (
        <Button size="compact-xs" variant="default" onClick={copy} aria-label={`Copy the ${what}`}>
          {copied ? 'Copied' : 'Copy'}
        </Button>
      )}
    </CopyButton>
  );
}
