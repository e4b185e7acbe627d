import { Button, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { switchToBranch } from '~/commands';
import { jobs } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { Buttons, Notice, Section } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { BranchView, FetchView } from '~/queries';
import styles from './fetch.module.css';
import type { Followed } from './followed-branch';

/**
 * A build to which a branch leads comes by its depots or by the storefront: the two side by side, with what each costs and
 * whether it lasts.
 */
export function TwoWays({
  view,
  followed,
  wire,
  written,
}: {
  view: FetchView;
  followed: Followed;
  /** Bytes that fetching the depots takes, and those that it writes. */
  wire: number;
  written: number;
}) {
  const { branches, build, byBranch } = view;
  const { index } = useFrame();
  const [name, setName] = useState(followed.branch);
  const branch = branches.find((one) => one.name === name) ?? branches[0];
  if (!branch || byBranch.files === 0) return null;
  const leads = index.branches.find((one) => one.name === followed.branch)?.build;
  return (
    <section aria-label="Two ways" className={styles.twoWays}>
      <Section>Two ways to {build}</Section>
      <table>
        <thead>
          <tr>
            <td />
            <th scope="col">From its depots, here</th>
            <th scope="col">By the {branch.name} branch, in the storefront</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">On the wire</th>
            <td>{bytes(wire)}</td>
            <td>at most {bytes(byBranch.bytes)}</td>
          </tr>
          <tr>
            <th scope="row">Written</th>
            <td>{bytes(written)}, then laid down</td>
            <td>{counted(byBranch.files, 'file')}, in place</td>
          </tr>
          <tr>
            <th scope="row">Checked</th>
            <td>every piece as it arrives</td>
            <td>afterwards, in Survey</td>
          </tr>
          <tr>
            <th scope="row">Mods of this target</th>
            <td>with it</td>
            <td>afterwards, in Assemble</td>
          </tr>
          <tr>
            <th scope="row">Undone</th>
            <td>in History</td>
            <td>by switching back, as another update</td>
          </tr>
          <tr>
            <th scope="row">Will it hold?</th>
            <td>{staysBy(followed, leads, build)}</td>
            <td>{lasts(branch, build)}</td>
          </tr>
        </tbody>
      </table>
      {branches.length > 1 && (
        <Select
          mt={8}
          maw={260}
          label="Branch"
          allowDeselect={false}
          data={branches.map((one) => one.name)}
          value={branch.name}
          onChange={(value) => setName(value ?? undefined)}
        />
      )}
      <Switch key={branch.name} branch={branch} build={build} followed={followed} />
    </section>
  );
}

/** How long a build stays that was laid down here, by where the branch leads that the storefront follows. */
function staysBy({ branch }: Followed, leads: string | undefined, build: string): string {
  if (leads === undefined) return 'Only while held';
  return leads === build
    ? `Until the ${branch} branch moves on, or while held`
    : `Only while held: the ${branch} branch leads to ${leads}`;
}

/** How long a build stays where a branch leads. */
function lasts({ since, builds }: BranchView, build: string): string {
  if (since === undefined) return 'Until the branch moves on, or while held';
  const moved = builds > 1 ? `, after ${counted(builds - 1, 'earlier build')}` : '';
  return `Until the branch moves on, or while held. It is at ${build} since ${since}${moved}`;
}

/** To have the storefront follow the branch, as far as that can be done from here. */
function Switch({ branch, build, followed }: { branch: BranchView; build: string; followed: Followed }) {
  const { install, held } = useFrame();
  const { failure, busy, attempt } = useAttempt();
  const navigate = useNavigate();
  const [code, setCode] = useState('');
  const { name, needsCode } = branch;
  const check = (
    <Button
      variant="default"
      onClick={() =>
        void (async () => {
          await jobs.start('survey', install.id, { trustEarlier: true });
          await navigate(`/${install.id}/survey`);
        })()
      }
    >
      Check what changed in the folder
    </Button>
  );
  if (followed.branch === name) {
    return (
      <>
        <Notice tone="right">
          The storefront’s record follows the {name} branch. Let the storefront update the game to {build}, then check
          the folder.
        </Notice>
        <Buttons>{check}</Buttons>
      </>
    );
  }
  if (followed.branch === undefined) {
    return (
      <>
        <p className="quiet">The branch cannot be switched from here. By hand:</p>
        <ol className={styles.byHand}>
          <li>In the storefront, open the branches of this game.</li>
          <li>
            Choose {name}
            {needsCode && ' and enter its code'}.
          </li>
          <li>Let it update the game, then check the folder here.</li>
        </ol>
        <Buttons>{check}</Buttons>
      </>
    );
  }
  if (held) {
    return (
      <p className="quiet">
        The folder is held at {held.build}.{' '}
        <Link className="link" to={`/${install.id}/hold`}>
          Release the hold
        </Link>{' '}
        to switch to {name}.
      </p>
    );
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        attempt(() => switchToBranch(install.id, name, code.trim() === '' ? undefined : code.trim()));
      }}
    >
      {needsCode && followed.takesCode && (
        <TextInput
          mt={8}
          maw={260}
          label={`Code of the ${name} branch`}
          value={code}
          onChange={({ currentTarget }) => setCode(currentTarget.value)}
        />
      )}
      {needsCode && !followed.takesCode && (
        <p className="quiet">The {name} branch needs a code. Enter it in the storefront first.</p>
      )}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        <Button
          type="submit"
          variant="default"
          disabled={busy || (needsCode && followed.takesCode && code.trim() === '')}
        >
          Switch from {followed.branch} to {name}
        </Button>
      </Buttons>
      <p className="quiet">
        Only the storefront’s record is edited, and History takes that back. The storefront then brings {build} by
        itself.
      </p>
    </form>
  );
}
