import { findNodeAtLocation, parseTree } from 'jsonc-parser';
import { SaxesParser } from 'saxes';
import { Failure, isFailure } from '#core/failure';
import { compile } from '#core/patterns';
import type { ValueRule } from '#core/builds';

/* One value in a text, found by a rule, and put in its place: whatever else stands in the text stays, byte for byte. */

/** Where a value stands, and what it is. */
interface Spot {
  readonly start: number;
  readonly end: number;
  readonly value: string;
  /** Another value as it is written there. */
  readonly write: (value: string) => string;
}

/** Why there is no such place. */
type Fault = { readonly what: string; readonly line?: number };

const lineAt = (text: string, offset: number): number => text.slice(0, offset).split('\n').length;

/** A step of a way in RFC 6901. */
const steps = (at: string): string[] =>
  at
    .replace(/^\//, '')
    .split('/')
    .map((step) => step.replaceAll('~1', '/').replaceAll('~0', '~'));

function inJson(text: string, at: string): Spot | Fault {
  const errors: { error: number; offset: number; length: number }[] = [];
  const bom = text.startsWith('\uFEFF') ? 1 : 0;
  const tree = parseTree(text.slice(bom), errors, { disallowComments: false, allowTrailingComma: true });
  const [fault] = errors;
  if (fault || !tree) return { what: 'is no JSON', line: lineAt(text, (fault?.offset ?? 0) + bom) };
  let node = tree as ReturnType<typeof findNodeAtLocation>;
  for (const step of steps(at))
    node = node && findNodeAtLocation(node, [node.type === 'array' && /^\d+$/.test(step) ? Number(step) : step]);
  if (!node) return { what: `has nothing at ${at}` };
  if (node.type === 'object' || node.type === 'array')
    return { what: `has no single value at ${at}`, line: lineAt(text, node.offset) };
  const isText = node.type === 'string';
  return {
    ...{ start: node.offset + bom, end: node.offset + node.length + bom, value: String(node.value) },
    // A number or a truth stays one where the other value is one too.
    write: (value) =>
      !isText && /^(true|false|null|-?(0|[1-9]\d*)(\.\d+)?)$/.test(value) ? value : JSON.stringify(value),
  };
}

function inIni(text: string, at: string): Spot | Fault {
  const cut = at.lastIndexOf('/');
  const [section, key] = cut < 0 ? ['', at] : [at.slice(0, cut), at.slice(cut + 1)];
  const found: Spot[] = [];
  let [offset, here] = [0, ''];
  for (const line of text.replace(/^\uFEFF/, ' ').split('\n')) {
    // Cut by hand: expressions with blanks on both sides take time by the square of a long line.
    const plain = line.trim();
    const equals = line.indexOf('=');
    const name = line.slice(0, Math.max(0, equals)).trim().toLowerCase();
    if (plain.startsWith('[') && plain.endsWith(']')) here = plain.slice(1, -1).trim();
    else if (name === key.toLowerCase() && here.toLowerCase() === section.toLowerCase()) {
      const behind = line.slice(equals + 1);
      const whole = behind.trim();
      const isQuoted = whole.length > 1 && /["']/.test(whole[0]!) && whole.endsWith(whole[0]!);
      const value = isQuoted ? whole.slice(1, -1) : whole;
      const blanks = behind.length - behind.trimStart().length;
      const start = offset + equals + 1 + (whole === '' ? 0 : blanks) + (isQuoted ? 1 : 0);
      found.push({ start, end: start + value.length, value, write: (other) => other });
    }
    offset += line.length + 1;
  }
  if (found.length === 1) return found[0]!;
  return { what: found.length === 0 ? `has nothing at ${at}` : `has ${at} ${found.length} times` };
}

const ENTITIES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' };
const escaped = (value: string): string => value.replace(/[&<>"']/g, (sign) => ENTITIES[sign]!);

function inXml(text: string, at: string): Spot | Fault {
  const way = at.replace(/^\//, '').split('/');
  const attribute = way.at(-1)!.startsWith('@') ? way.pop()!.slice(1) : undefined;
  const parser = new SaxesParser({ position: true });
  const found: (Spot | Fault)[] = [];
  const names: string[] = [];
  let fault: Fault | undefined;
  /** Of the element that is looked for, while it is open: where its text begins, and what it is so far. */
  let open: { start: number; text: string; isPlain: boolean } | undefined;
  const isThere = (): boolean => names.length === way.length && names.every((name, i) => name === way[i]);
  parser.on('error', (error) => {
    fault ??= { what: `is no XML: ${error.message.replace(/^[\d:]+ /, '')}`, line: parser.line };
  });
  parser.on('opentag', ({ name, attributes, isSelfClosing }) => {
    if (open) open.isPlain = false;
    names.push(name);
    if (!isThere()) return;
    if (attribute === undefined) {
      if (isSelfClosing) found.push({ what: `has nothing in ${at}`, line: parser.line });
      else open = { start: parser.position, text: '', isPlain: true };
      return;
    }
    const tagStart = text.lastIndexOf('<', parser.position - 1);
    const tag = text.slice(tagStart, parser.position);
    // Behind its own name a tag has names with values alone.
    const pairs = /([^\s=<>/"']+)\s*=\s*("[^"]*"|'[^']*')/g;
    pairs.lastIndex = 1 + name.length;
    let raw = pairs.exec(tag);
    while (raw && raw[1] !== attribute) raw = pairs.exec(tag);
    if (!raw || attributes[attribute] === undefined) return;
    const end = tagStart + raw.index + raw[0].length - 1;
    const value = String(attributes[attribute]);
    found.push({ start: end - (raw[2]!.length - 2), end, value, write: escaped });
  });
  parser.on('text', (some) => open && (open.text += some));
  for (const other of ['cdata', 'comment', 'processinginstruction'] as const)
    parser.on(other, () => {
      if (open) open.isPlain = false;
    });
  parser.on('closetag', () => {
    if (open && isThere()) {
      const end = text.lastIndexOf('</', parser.position - 1);
      const raw = text.slice(open.start, end);
      // What stands around it stays: people put values on lines of their own.
      const [space] = /^\s*/.exec(raw)!;
      const value = open.text.trim();
      found.push(
        open.isPlain
          ? {
              start: open.start + space.length,
              end: open.start + Math.max(space.length, raw.trimEnd().length),
              value,
              write: escaped,
            }
          : { what: `has more than a text in ${at}`, line: parser.line },
      );
      open = undefined;
    }
    names.pop();
  });
  try {
    parser.write(text).close();
  } catch (error) {
    if (!fault) throw error;
  }
  if (fault) return fault;
  if (found.length === 1) return found[0]!;
  return { what: found.length === 0 ? `has nothing at ${at}` : `has ${at} ${found.length} times` };
}

function inText(text: string, at: string): Spot | Fault {
  const matcher = compile(at).matcher(text);
  if (!matcher.find() || matcher.start(1) < 0) return { what: 'has nothing that the pattern finds' };
  const [start, end, value] = [matcher.start(1), matcher.end(1), matcher.group(1) ?? ''];
  if (matcher.find())
    return { what: 'has more than one place that the pattern finds', line: lineAt(text, matcher.start()) };
  return { start, end, value, write: (other) => other };
}

const FINDERS = { json: inJson, ini: inIni, xml: inXml, text: inText };

/** @throws Failure `record/not-as-ruled` where the text is not what the rule says, with what and the line */
function spotOf(text: string, { form, at, file }: ValueRule): Spot {
  const spot = FINDERS[form](text, at);
  if ('what' in spot) throw new Failure('record/not-as-ruled', { file, ...spot });
  return spot;
}

/** The value in a record. @throws Failure `record/not-as-ruled` */
export const readValue = (text: string, rule: ValueRule): string => spotOf(text, rule).value;

/**
 * A record with another value in it; nothing else of it is changed.
 * @throws Failure `record/not-as-ruled`, also where the value could not be read back from what would be written
 */
export function writeValue(text: string, rule: ValueRule, value: string): string {
  const spot = spotOf(text, rule);
  if (spot.value === value) return text;
  const written = text.slice(0, spot.start) + spot.write(value) + text.slice(spot.end);
  if (spotOf(written, rule).value !== value)
    throw new Failure('record/not-as-ruled', { file: rule.file, what: `cannot hold "${value}" at ${rule.at}` });
  return written;
}

/** Values that switches have, as programs write them. */
const SWITCH_VALUES = [
  ...['true', 'false', 'True', 'False', 'TRUE', 'FALSE', '1', '0', 'on', 'off', 'On', 'Off', 'yes', 'no', 'Yes', 'No'],
  ...['enabled', 'disabled', 'Enabled', 'Disabled', ''],
];

/**
 * A text as it would be with its value as switches have theirs: each that differs from it.
 * @returns none where the rule finds no value in it
 */
export function switchedTexts(text: string, rule: ValueRule & { readonly on: string }): string[] {
  const texts = new Set<string>();
  for (const value of [rule.on, ...SWITCH_VALUES]) {
    try {
      texts.add(writeValue(text, rule, value));
    } catch (error) {
      if (!isFailure(error)) throw error;
    }
  }
  texts.delete(text);
  return [...texts];
}
