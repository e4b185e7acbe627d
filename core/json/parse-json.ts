import type { z } from 'zod';
import { Failure } from '#core/failure';
import { type JsonStep, scanJson } from './scan';

const MAX_LENGTH = 64 << 20;
/** Lists and objects inside one another; no format here comes near it. */
const MAX_DEPTH = 64;

/** How a schema is asked to stop at the first element that does not fit: of millions one is enough to refuse the text. */
const AT_FIRST_FAULT = { abortEarly: true } as z.core.ParseContext<z.core.$ZodIssue>;

/** The line at which lists and objects stand deeper inside one another than anything here needs; undefined where none do. */
function lineTooDeep(text: string): number | undefined {
  let [depth, line] = [0, 1];
  for (let i = 0; i < text.length; i++) {
    switch (text[i]) {
      case '\n':
        line++;
        break;
      case '"':
        // A string ends at its quotation mark, or, where it is broken, with its line.
        for (i++; i < text.length && text[i] !== '"' && text[i] !== '\n'; i++) if (text[i] === '\\') i++;
        if (text[i] === '\n') line++;
        break;
      case '[':
      case '{':
        if (++depth > MAX_DEPTH) return line;
        break;
      case ']':
      case '}':
        depth--;
        break;
      default:
    }
  }
  return undefined;
}

/**
 * The line of the value that a path leads to. A value that is missing has no place of its own: the line is then that of the
 * nearest thing that has one.
 */
function lineOf(text: string, path: readonly JsonStep[]): number {
  let nearest = { depth: -1, line: 1 };
  scanJson(text, (way, line) => {
    if (way.length > path.length || way.length < nearest.depth) return;
    // Of a key that stands twice the later value is the one that was read.
    if (way.every((step, i) => step === path[i])) nearest = { depth: way.length, line };
  });
  return nearest.line;
}

/**
 * Reads strict JSON and holds it against a schema; nothing half-read comes back. Time and memory grow with the text, whatever
 * is in it.
 * @param file how the text is called in errors
 * @throws Failure `json/malformed` with line and what is wrong, `json/does-not-fit` with line, field and problem
 */
export function parseJson<Schema extends z.ZodType>(text: string, schema: Schema, file: string): z.output<Schema> {
  if (text.length > MAX_LENGTH) throw new Failure('json/malformed', { file, line: 1, what: 'TooLong' });
  const deep = lineTooDeep(text);
  if (deep !== undefined) throw new Failure('json/malformed', { file, line: deep, what: 'TooDeep' });
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (cause) {
    throw new Failure('json/malformed', { file, ...(scanJson(text) ?? { what: 'ValueExpected', line: 1 }) }, { cause });
  }
  const result = schema.safeParse(value, AT_FIRST_FAULT);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  const unknown = issue!.code === 'unrecognized_keys' ? issue!.keys.slice(0, 1) : [];
  const steps = [...issue!.path.map((step) => (typeof step === 'symbol' ? String(step) : step)), ...unknown];
  const problem = unknown.length > 0 ? 'is no field that is known here' : issue!.message;
  throw new Failure('json/does-not-fit', { file, line: lineOf(text, steps), field: steps.join('.'), problem });
}
