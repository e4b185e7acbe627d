import { Button, FileButton } from '@mantine/core';
import { useEffect, useEffectEvent, useState } from 'react';
import { type BroughtProfile, bytesOf, type HandedText, importProfile, readHandedTexts } from '~/commands';
import { counted } from '~/parts/format';
import { Notice } from '~/parts/parts';
import { useAddress } from '~/parts/use-address';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import listing from '~/parts/listing.module.css';

/** What of a profile is not known here, as one sentence each. */
function missingWords({ unknown: { build, mods, releases }, otherGame }: BroughtProfile): string[] {
  return [
    otherGame !== undefined && `It was made for ${otherGame}.`,
    build !== undefined && `Build ${build} is unknown here, so it has no build.`,
    mods.length > 0 && `${counted(mods.length, 'mod')} unknown here, left out: ${mods.slice(0, 5).join(', ')}.`,
    releases.length > 0 &&
      `${counted(releases.length, 'release')} unknown here, left out: ${releases
        .slice(0, 5)
        .map(({ mod, release }) => `${mod} ${release}`)
        .join(', ')}.`,
  ].filter((words) => words !== false);
}

/** Adds a profile that somebody handed on. */
export function ImportProfile() {
  const { install } = useFrame();
  const address = useAddress();
  const { failure, busy, attempt } = useAttempt();
  const [brought, setBrought] = useState<BroughtProfile>();
  const take = (name: string, bytes: Uint8Array): void =>
    attempt(async () => {
      setBrought(undefined);
      const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
      const profile = await importProfile(install.id, text, name);
      setBrought(profile);
      address.set({ profile: profile.id });
    });
  const takeHanded = useEffectEvent(({ name, bytes }: HandedText) => take(name, bytes));
  useEffect(() => readHandedTexts(takeHanded), []);
  const missing = brought ? missingWords(brought) : [];
  return (
    <div className={listing.line}>
      <FileButton
        onChange={(file) => file && void bytesOf(file).then((bytes) => take(file.name, bytes))}
        accept="application/json,.json"
        inputProps={{ 'aria-label': 'Profile' }}
      >
        {(props) => (
          <Button {...props} size="xs" variant="default" disabled={busy}>
            Import a profile
          </Button>
        )}
      </FileButton>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {brought && (
        <Notice tone={missing.length > 0 ? 'attention' : 'right'}>
          {brought.title} was added. {missing.join(' ')}
        </Notice>
      )}
    </div>
  );
}
