import { Button, PasswordInput, TextInput } from '@mantine/core';
import type { FetcherWithComponents } from 'react-router';
import { z } from 'zod';
import type { WireFailure } from '#core/failure';
import { Buttons, FailureNotice, Section } from './parts';

export const SignInFormSchema = z.discriminatedUnion('intent', [
  z.object({
    intent: z.literal('sign-in'),
    name: z.string(),
    passphrase: z.string(),
    code: z.string().optional(),
    branchCode: z.string().optional(),
  }),
  z.object({ intent: z.literal('sign-out') }),
]);

export interface SignInOutcome {
  readonly step: 'start' | 'code';
  readonly failure?: WireFailure;
}

interface SignInFormProps {
  readonly fetcher: FetcherWithComponents<SignInOutcome>;
  /** Branches that need a code to be opened. */
  readonly locked: readonly string[];
  readonly startOver: () => void;
  /** The page that signs in, where it is not this one. */
  readonly action?: string;
}

/** Two steps in one form: name and passphrase, then the one-time code that the service sends. */
export function SignInForm({ fetcher, locked, startOver, action }: SignInFormProps) {
  const outcome = fetcher.data;
  const wantsCode = outcome?.step === 'code';
  return (
    <fetcher.Form method="post" {...(action !== undefined && { action })} aria-label="Sign in to the depot service">
      <Section>Sign in to the depot service</Section>
      <p className="quiet">
        In this demo it is a stand-in; its account and one-time code are under Stand-ins (T). Regressum keeps a token,
        never the passphrase.
      </p>
      <input type="hidden" name="intent" value="sign-in" />
      <TextInput name="name" label="Name" autoComplete="username" required readOnly={wantsCode} />
      <PasswordInput
        name="passphrase"
        label="Passphrase"
        autoComplete="current-password"
        required
        readOnly={wantsCode}
        visibilityToggleButtonProps={{ 'aria-label': 'Show or hide the passphrase' }}
      />
      {locked.length > 0 && (
        <TextInput
          name="branchCode"
          label={`Code of the ${locked.join(' or ')} branch`}
          required
          readOnly={wantsCode}
        />
      )}
      {wantsCode && (
        <TextInput
          name="code"
          label="One-time code"
          inputMode="numeric"
          autoComplete="one-time-code"
          required
          data-autofocus
        />
      )}
      {outcome?.failure && <FailureNotice failure={outcome.failure} />}
      <Buttons>
        <Button type="submit" size="xs" mt={8} disabled={fetcher.state !== 'idle'}>
          {wantsCode ? 'Sign in with this code' : 'Request a one-time code'}
        </Button>
        {wantsCode && (
          <Button
            size="xs"
            mt={8}
            variant="default"
            onClick={() => {
              void fetcher.reset();
              startOver();
            }}
          >
            Start over
          </Button>
        )}
      </Buttons>
    </fetcher.Form>
  );
}
