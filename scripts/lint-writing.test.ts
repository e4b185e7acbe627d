import { ESLint } from 'eslint';
import { expect, it } from 'vitest';

/** A file of the application in which nothing may change a folder; its text here is another one. */
const PLACE = 'app/commands/hold.ts';

/** Methods of the ports of folders by what of them changes what lies there, and what only looks. */
const PORTS = [
  {
    port: "import('#core/changes').Disk",
    writes: ['writeWhole', 'writeAt', 'move', 'remove', 'copy', 'sync', 'setReadOnly', 'setModified', 'exchange'],
    looks: ['list', 'stat', 'open', 'read', 'room', 'isReadOnly', 'current'],
  },
  {
    port: "import('#core/contents').ArrivalFolder",
    writes: ['writeWhole', 'writeAt', 'remove', 'takeIn'],
    looks: ['stat', 'open', 'read'],
  },
  {
    port: "ReturnType<typeof import('~/folders').browserDisk>",
    writes: ['writeWhole', 'writeAt', 'move', 'remove', 'copy', 'sync', 'setReadOnly', 'put', 'moveTo'],
    looks: ['list', 'stat', 'open', 'read', 'fileOf'],
  },
  { port: 'FileSystemFileHandle', writes: ['createWritable'], looks: ['getFile'] },
  { port: 'FileSystemDirectoryHandle', writes: ['removeEntry'], looks: ['getFileHandle', 'resolve'] },
];

it('finds each method that changes a folder, by its port, however it is called or handed on', async () => {
  const lines = PORTS.flatMap(({ port, writes, looks }) =>
    [...writes.map((method) => [method, true] as const), ...looks.map((method) => [method, false] as const)].flatMap(
      ([method, isFound]) => [
        [`export const one = (port: ${port}) => port.${method};`, isFound] as const,
        [`export const named = (port: ${port}) => port['${method}'];`, isFound] as const,
        [`export const there = (port?: ${port}) => port?.${method};`, isFound] as const,
        [`export const taken = ({ ${method} }: ${port}) => ${method};`, isFound] as const,
        [`export const part = (port: Pick<${port}, '${method}'>) => port.${method};`, isFound] as const,
      ],
    ),
  );
  // What has the same name elsewhere changes no folder.
  const others = [['export const gone = (all: Element) => all.remove();', false] as const];
  const all = [...lines, ...others];
  const linter = new ESLint({ ruleFilter: ({ ruleId }) => ruleId === 'folders/writing' });
  const text = all.map(([line], i) => line.replace(/const (\w+)/, `const $1${i}`)).join('\n');
  const [result] = await linter.lintText(text, { filePath: PLACE });
  const found = new Set(result!.messages.map(({ line }) => line));
  expect(result!.fatalErrorCount).toBe(0);
  for (const [i, [line, isFound]] of all.entries()) expect([line, found.has(i + 1)]).toEqual([line, isFound]);
});
