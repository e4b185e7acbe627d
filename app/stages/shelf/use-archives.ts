import { useState } from 'react';
import { useRevalidator } from 'react-router';
import {
  type ArchivesOffer,
  type FolderToRead,
  openArchives,
  putOnShelf,
  type Settled,
  wantReleases,
} from '~/commands';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { type DraftPlaces, useQuery } from '~/queries';
import { type DraftChoice, firstChoice, openQuestion } from './drafts';

/** Archives that are looked through, and what a person has settled of them. */
export interface ArchivesAtHand {
  readonly offer: ArchivesOffer | undefined;
  readonly drafts: readonly DraftChoice[];
  readonly places: readonly (DraftPlaces | undefined)[];
  /** What keeps each draft from the shelf. */
  readonly questions: readonly (string | undefined)[];
  /** Known releases that are whole. */
  readonly whole: ArchivesOffer['read']['known'];
  /** Releases that would be put on the shelf. */
  readonly ready: number;
  readonly busy: boolean;
  /** The archive that is being read. */
  readonly reading: string | undefined;
  readonly failure: string | undefined;
  readonly done: number | undefined;
  readonly open: (from: readonly (File | FolderToRead)[]) => void;
  readonly change: (at: number, draft: DraftChoice) => void;
  readonly put: (wants: boolean) => void;
  readonly cancel: () => void;
}

export function useArchives(): ArchivesAtHand {
  const { install, likeliest } = useFrame();
  const { failure, busy, attempt } = useAttempt();
  const { revalidate } = useRevalidator();
  const [offer, setOffer] = useState<ArchivesOffer>();
  const [drafts, setDrafts] = useState<readonly DraftChoice[]>([]);
  const [reading, setReading] = useState<string>();
  const [done, setDone] = useState<number>();
  const asked = drafts.map(({ parts }) => parts.filter(({ isTaken, to }) => isTaken && to !== undefined));
  const { value } = useQuery('placesOfDrafts', drafts.length > 0 ? [install.id, asked] : undefined, install.changedAt);
  const places = drafts.map((_, i) => value?.[i]);
  const questions = drafts.map((draft, i) => openQuestion(draft, places[i]));
  const whole = (offer?.read.known ?? []).filter(({ missing }) => missing.length === 0);
  const settled = drafts.flatMap(({ archive, name, version, mod, parts, builds, source }, i): Settled[] => {
    const at = places[i];
    if (!at || questions[i] !== undefined || !parts.some(({ isTaken }) => isTaken)) return [];
    const told = { name: name.trim(), version: version.trim(), source: source.trim() };
    return [{ archive, ...told, mod, builds, places: at.places, touches: at.game }];
  });
  return {
    ...{ offer, drafts, places, questions, whole, reading, failure, busy, done },
    ready: whole.length + settled.length,
    open: (from) =>
      attempt(async () => {
        setDone(undefined);
        try {
          const opened = await openArchives(install, from, ({ name, number }) =>
            setReading(from.length === 1 ? name : `${number + 1} of ${from.length}: ${name}`),
          );
          setOffer(opened);
          const build = install.target?.build ?? likeliest;
          setDrafts(opened.read.drafts.map((draft) => firstChoice(draft, build)));
        } finally {
          setReading(undefined);
        }
      }),
    change: (at, draft) => setDrafts(drafts.map((one, i) => (i === at ? draft : one))),
    put: (wants) =>
      attempt(async () => {
        if (!offer) return;
        const put = await putOnShelf(install, offer, whole, settled);
        if (wants) await wantReleases(install.id, put);
        // What is there now stands on the page before the archives leave it.
        await revalidate();
        setOffer(undefined);
        setDrafts([]);
        setDone(put.length);
      }),
    cancel: () => {
      setOffer(undefined);
      setDrafts([]);
    },
  };
}
