import type { ChangeSet } from '#core/changes';
import { changeDisk } from '~/workers/change-task';
import { installDisk } from '~/folders/install-disk';
import { failureToWire } from '#core/failure';
import { platformSha256 } from '~/remote/sha256';

/* The worker of bench/faults: lays files out on the browser's own disk, runs change sets there, and tells what lies there. */

export type Ask =
  | {
      readonly do: 'lay-out';
      readonly install: string;
      readonly files: readonly (readonly [path: string, text: string])[];
    }
  | { readonly do: 'run'; readonly install: string; readonly set: ChangeSet; readonly way: 'on' | 'back' | 'let-go' }
  | { readonly do: 'picture'; readonly install: string };

async function answer(ask: Ask): Promise<unknown> {
  const disk = installDisk(ask.install, 't1');
  switch (ask.do) {
    case 'lay-out':
      for (const [path, text] of ask.files) await disk.writeWhole(path, new TextEncoder().encode(text));
      return 'ended';
    case 'run': {
      const { set, way } = ask;
      const task = {
        do: 'change',
        place: { kind: 'browser-disk', disk: '' },
        tree: 't1',
        act:
          way === 'let-go' ? { act: way, set: set.id } : { act: way, set: set.id, ...(way === 'on' && { plan: set }) },
      } as const;
      const ports = { sha256: platformSha256, signal: new AbortController().signal, progress: () => undefined };
      return changeDisk(task, disk, ports).then(
        () => 'ended',
        (error: unknown) => failureToWire(error).code,
      );
    }
    case 'picture': {
      const lines: [string, string][] = [];
      for (const { path } of await disk.list()) {
        const flag = (await disk.isReadOnly(path)) ? ' read-only' : '';
        lines.push([path, (await platformSha256(await disk.read(path))) + flag]);
      }
      return { current: await disk.current(), lines };
    }
  }
}

self.onmessage = async ({ data }: MessageEvent<Ask>): Promise<void> => self.postMessage(await answer(data));
