import { Button, PasswordInput } from '@mantine/core';
import { useState } from 'react';
import { errorWords } from '~/parts/failure-words';
import { Notice } from '~/parts/parts';
import { servedRoots, servedToken } from '~/remote';

/** Asks for the token that was printed at the server's start, until it is the right one. */
export function ServedToken({ onRoots, label }: { onRoots: (roots: readonly string[]) => void; label: string }) {
  const [token, setToken] = useState(servedToken);
  const [failure, setFailure] = useState<string>();
  const ask = async (): Promise<void> => {
    try {
      onRoots(await servedRoots(token.trim()));
      setFailure(undefined);
    } catch (error) {
      const { what, next } = errorWords(error);
      setFailure(`${what} ${next}`);
    }
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void ask();
      }}
    >
      <PasswordInput
        label="Access token (printed at start)"
        autoComplete="off"
        value={token}
        onChange={(event) => setToken(event.currentTarget.value)}
      />
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Button mt={8} variant="default" type="submit">
        {label}
      </Button>
    </form>
  );
}
