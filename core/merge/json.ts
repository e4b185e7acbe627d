import { applyEdits, type Edit, type Node, type ParseError, parseTree } from 'jsonc-parser';
import { mergeValues, pathKey, type StructuredMerge, unlessUnchanged, type ValueChange } from './keyed';

/*
 * JSON, with remarks and commas too many as games have them. Objects are gone into key by key, lists as long in all three item by item;
 * any other list is one value. A number is compared as it is written: no digit of it is lost.
 */

/** Deeper than that nothing is gone into. */
const DEEPEST = 200;

type Path = readonly string[];

class Json {
  readonly root: Node;
  readonly #nodes = new Map<string, Node>();

  constructor(
    readonly text: string,
    root: Node,
  ) {
    this.root = root;
    this.#note(root, []);
  }

  #note(node: Node, path: Path): void {
    this.#nodes.set(pathKey(path), node);
    if (path.length >= DEEPEST) return;
    for (const [i, child] of (node.children ?? []).entries()) {
      if (node.type === 'object') this.#note(child.children![1]!, [...path, String(child.children![0]!.value)]);
      else this.#note(child, [...path, String(i)]);
    }
  }

  at(path: Path): Node | undefined {
    return this.#nodes.get(pathKey(path));
  }

  /** A value as it is written. */
  written({ offset, length }: Node): string {
    return this.text.slice(offset, offset + length);
  }

  /** A value as a text that is the same for equal ones, whatever their layout and the order of keys. */
  told(node: Node): string {
    if (node.children) return this.#whole(node);
    return node.type === 'number' ? this.written(node) : JSON.stringify(node.value);
  }

  #whole(node: Node): string {
    const { type, children = [] } = node;
    if (type === 'array') return `[${children.map((child) => this.told(child)).join()}]`;
    const fields = children.map(({ children: [key, value] = [] }) => [String(key!.value), this.told(value!)] as const);
    const sorted = fields.toSorted(([a], [b]) => (a < b ? -1 : 1));
    return `{${sorted.map(([key, value]) => `${JSON.stringify(key)}:${value}`).join()}}`;
  }
}

/** @returns undefined for what is no JSON, or has a key twice */
function jsonOf(text: string): Json | undefined {
  const errors: ParseError[] = [];
  const root = parseTree(text, errors, { allowTrailingComma: true });
  if (!root || errors.length > 0) return undefined;
  const hasTwice = (node: Node): boolean => {
    const { type, children = [] } = node;
    if (type === 'object') {
      const keys = children.map(({ children: [key] = [] }) => String(key!.value));
      if (new Set(keys).size < keys.length) return true;
      return children.some(({ children: [, value] = [] }) => value === undefined || hasTwice(value));
    }
    return children.some(hasTwice);
  };
  return hasTwice(root) ? undefined : new Json(text, root);
}

/** The values of three texts, each gone into as deep as all three have it. */
function valuesOf(all: readonly Json[]): Map<string, string>[] {
  const values = all.map(() => new Map<string, string>());
  const go = (path: Path): void => {
    const nodes = all.map((json) => json.at(path));
    const there = nodes.filter((node) => node !== undefined);
    const type = there[0]!.type;
    const isOneType = there.every((node) => node.type === type);
    const isObject = isOneType && type === 'object';
    const isList =
      isOneType && type === 'array' && there.every((node) => node.children!.length === there[0]!.children!.length);
    if (
      path.length < DEEPEST &&
      there.length === all.length &&
      (isObject || isList) &&
      there.some((node) => node.children!.length > 0)
    ) {
      const names = isList
        ? there[0]!.children!.map((_, i) => String(i))
        : [...new Set(there.flatMap((node) => node.children!.map(({ children: [key] = [] }) => String(key!.value))))];
      for (const name of names) go([...path, name]);
      return;
    }
    for (const [i, node] of nodes.entries()) if (node) values[i]!.set(pathKey(path), all[i]!.told(node));
  };
  go([]);
  return values;
}

const keyOf = (property: Node): string => String(property.children![0]!.value);

/** Takes a property out, with the comma that parted it from the others. */
function without(text: string, object: Node, name: string): string {
  const properties = object.children!;
  const at = properties.findIndex((one) => keyOf(one) === name);
  const property = properties[at]!;
  const [before, behind] = [properties[at - 1], properties[at + 1]];
  const end = property.offset + property.length;
  if (before) return text.slice(0, before.offset + before.length) + text.slice(end);
  return text.slice(0, property.offset) + text.slice(behind ? behind.offset : end).replace(behind ? '' : /^\s*,/, '');
}

/** Puts a property behind those that it follows over there, parted from them as they are from one another. */
function withProperty(text: string, object: Node, name: string, value: string, theirs: Node): string {
  const properties = object.children!;
  const names = theirs.children!.map(keyOf);
  const follows = new Set(names.slice(0, names.indexOf(name)));
  const before = properties.findLast((one) => follows.has(keyOf(one)));
  const written = `${JSON.stringify(name)}: ${value}`;
  const [first] = properties;
  const inner = object.offset + 1;
  if (!first) return `${text.slice(0, inner)} ${written} ${text.slice(inner).trimStart()}`;
  const gap = /^\s*/.exec(text.slice(inner))![0];
  // Between two on one line stands what stands between them, not what stands before the first.
  const second = properties[1];
  const between = second
    ? /\s*$/.exec(text.slice(first.offset + first.length, second.offset))![0]
    : gap.includes('\n')
      ? gap
      : ' ';
  if (!before) return `${text.slice(0, first.offset)}${written},${between}${text.slice(first.offset)}`;
  const end = before.offset + before.length;
  return `${text.slice(0, end)},${between}${written}${text.slice(end)}`;
}

/** Brings changes into a text: values that are there first, whose places are known, then what comes and goes. */
function brought(ours: Json, theirs: Json, takes: readonly ValueChange[]): string | undefined {
  const edits: Edit[] = [];
  const others: ValueChange[] = [];
  for (const change of takes) {
    const [node, their] = [ours.at(change.path), theirs.at(change.path)];
    if (!node || !their) others.push(change);
    else edits.push({ offset: node.offset, length: node.length, content: theirs.written(their) });
  }
  let text = applyEdits(ours.text, edits);
  for (const { path } of others) {
    const [above, name] = [path.slice(0, -1), path.at(-1)];
    const object = jsonOf(text)?.at(above);
    if (object?.type !== 'object' || name === undefined) return undefined;
    const their = theirs.at(path);
    text = their
      ? withProperty(text, object, name, theirs.written(their), theirs.at(above)!)
      : without(text, object, name);
  }
  return text;
}

/**
 * Merges two texts in JSON that were made from a third; what is ours keeps its layout and remarks.
 * @returns undefined where one is no JSON, or has a key twice
 */
export const mergeJson = (base: string, ours: string, theirs: string): StructuredMerge | undefined =>
  unlessUnchanged(base, ours, theirs, () => {
    const all = [base, ours, theirs].map(jsonOf);
    if (!all.every((json) => json !== undefined)) return undefined;
    const [, own, other] = all as [Json, Json, Json];
    const [was, mine, their] = valuesOf(all) as [Map<string, string>, Map<string, string>, Map<string, string>];
    const { takes, conflicts } = mergeValues(was, mine, their);
    if (conflicts.length > 0) return { merged: undefined, conflicts };
    const merged = brought(own, other, takes);
    return merged === undefined ? undefined : { merged, conflicts };
  });
