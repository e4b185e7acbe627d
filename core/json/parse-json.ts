import { findNodeAtLocation, parseTree, printParseErrorCode, type ParseError } from 'jsonc-parser';
import type { z } from 'zod';
import { Failure } from '#core/failure';

const MAX_LENGTH = 64 << 20;

function lineAt(text: string, offset: number): number {
  let line = 1;
  for (let i = text.indexOf('\n'); i >= 0 && i < offset; i = text.indexOf('\n', i + 1)) line++;
  return line;
}

/**
 * Reads strict JSON and holds it against a schema; nothing half-read comes back.
 * @param file how the text is called in errors
 * @throws Failure `json/malformed` with line and what is wrong, `json/does-not-fit` with line, field and problem
 */
export function parseJson<Schema extends z.ZodType>(text: string, schema: Schema, file: string): z.output<Schema> {
  if (text.length > MAX_LENGTH) throw new Failure('json/malformed', { file, line: 1, what: 'TooLong' });
  const errors: ParseError[] = [];
  const root = parseTree(text, errors, { disallowComments: true, allowTrailingComma: false });
  const broken = errors[0];
  if (broken || !root) {
    const what = broken ? printParseErrorCode(broken.error) : 'ValueExpected';
    throw new Failure('json/malformed', { file, line: lineAt(text, broken?.offset ?? 0), what });
  }
  const result = schema.safeParse(JSON.parse(text));
  if (result.success) return result.data;
  const issue = result.error.issues[0]!;
  let steps = issue.path.map((step) => (typeof step === 'symbol' ? String(step) : step));
  const field = steps.join('.');
  // A field that is missing has no place of its own: the line is then that of the nearest thing that has one.
  while (steps.length > 0 && !findNodeAtLocation(root, steps)) steps = steps.slice(0, -1);
  const node = findNodeAtLocation(root, steps) ?? root;
  throw new Failure('json/does-not-fit', { file, line: lineAt(text, node.offset), field, problem: issue.message });
}
