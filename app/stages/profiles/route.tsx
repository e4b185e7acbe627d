import { useState } from 'react';
import { type ClientLoaderFunctionArgs, useLoaderData, useRouteError } from 'react-router';
import { failureToWire } from '#core/failure';
import { isUnderWay, useJobs } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { counted } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Empty, FailureNotice, ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { useFrame } from '~/parts/use-frame';
import { type ProfileView, query, useQuery } from '~/queries';
import { ImportProfile } from './ImportProfile';
import { ModDifferences } from './ModDifferences';
import { NewProfileForm } from './NewProfileForm';
import { ProfileActions, ProfilePanel } from './ProfilePanel';
import styles from './profiles.module.css';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  return { profiles: await query('profilesView', params.install!), now: Date.now() };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="Profiles" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

const modsOf = ({ modFree, target, weights }: ProfileView): string =>
  modFree ? 'mod-free' : counted(target ? target.releases.length : weights.length, 'mod');

export default function Profiles() {
  const { profiles, now } = useLoaderData<typeof clientLoader>();
  const frame = useFrame();
  const address = useAddress();
  const busy = useJobs().some((job) => job.record.install === frame.install.id && isUnderWay(job));
  const counts = profiles.find((one) => one.counts);
  const shown =
    profiles.find(({ id }) => id === address.get('profile')) ?? profiles.find((one) => !one.counts) ?? counts;
  const canCompare = shown && !shown.counts && shown.target && frame.survey;
  const { value: view, failure } = useQuery(
    'switchView',
    canCompare ? [frame.install.id, shown.id] : undefined,
    `${now} ${frame.survey?.at}`,
  );
  const [filter, setFilter] = useState<'differ' | 'all'>('differ');
  return (
    <StagePage
      title="Profiles"
      left={
        <>
          <div className={`label ${parts.heading}`}>Profiles of {frame.install.title}</div>
          {profiles.map((profile) => (
            <ItemLink key={profile.id} changes={{ profile: profile.id }} current={profile.id === shown?.id}>
              <span className={styles.mark} data-counts={profile.counts || undefined} aria-hidden="true" />
              <span className={parts.grow}>
                {profile.title}
                <div className="quiet">
                  {modsOf(profile)}
                  {profile.counts && ' · in the folder'}
                </div>
              </span>
              <span className="mono">{profile.target?.build ?? '–'}</span>
            </ItemLink>
          ))}
          <NewProfileForm profiles={profiles} open={profiles.length === 1} />
          <ImportProfile />
        </>
      }
      middle={
        view && shown && counts ? (
          <ModDifferences from={counts} to={shown} view={view} filter={filter} onFilter={setFilter} />
        ) : shown?.counts || !shown ? (
          <Empty title={profiles.length === 1 ? 'One profile so far' : `${shown?.title} is in the folder`}>
            {profiles.length === 1
              ? 'A profile is a choice of build, mods and load order, with saves of its own if you like: such as a modded playthrough on an older build beside an unmodded game on the newest. Make a second one, and switch between them in this folder.'
              : 'Select another profile to see what a switch to it would change.'}
          </Empty>
        ) : (
          <Empty title={shown.target ? 'Not compared yet' : `${shown.title} has no build`}>
            {failure !== undefined ? (
              <FailureNotice failure={failureToWire(failure)} />
            ) : !shown.target ? (
              'Delete it and make it again with a build.'
            ) : frame.survey ? (
              'Comparing with the folder …'
            ) : (
              'Check every file first: a switch touches only what differs.'
            )}
          </Empty>
        )
      }
      right={shown && <ProfilePanel key={shown.id} profile={shown} view={view} />}
      action={shown && <ProfileActions profile={shown} view={view} busy={busy} single={profiles.length === 1} />}
    />
  );
}
