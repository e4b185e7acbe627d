import { createScanner, type Node, type ParseError, parseTree } from 'jsonc-parser';
import type { Decide, Merge } from './difference';
import { mergeTrees, type Numbers, type Tree, type TreeMember, type TreeNode, type TreeSyntax } from './tree';

/*
 * JSON, with remarks and commas too many as games have them. Objects are gone into key by key; items of a list by a value that is another
 * one in each of them, else by their number, else by what stands around them. A number is compared as it is written: no digit of it is
 * lost.
 */

/** The parser calls itself for each level. */
const MOST_LEVELS = 1000;

function isTooDeep(text: string): boolean {
  const scanner = createScanner(text, true);
  let level = 0;
  for (;;) {
    scanner.scan();
    const at = scanner.getTokenOffset();
    if (at >= text.length) return false;
    const sign = text[at]!;
    if (sign === '{' || sign === '[') level += 1;
    if (sign === '}' || sign === ']') level -= 1;
    if (level > MOST_LEVELS) return true;
  }
}

/** The last sign of a remark that begins at `at`: of one that takes in the rest of a line, the line's end, or `to`. */
function remarkEnd(text: string, at: number, to: number): number {
  if (text.startsWith('/*', at)) return text.indexOf('*/', at + 2) + 1;
  while (at < to && text[at] !== '\n' && text[at] !== '\r') at++;
  return at;
}

const isRemark = (text: string, at: number): boolean => text.startsWith('//', at) || text.startsWith('/*', at);

/** Where the comma stands in what lies between two values; remarks may hold others. */
function commaIn(text: string, from: number, to: number): number {
  for (let at = from; at < to; at++) {
    if (text[at] === ',') return at;
    if (isRemark(text, at)) at = remarkEnd(text, at, to);
  }
  return -1;
}

/** Whether what stands behind a member, of blanks and remarks, ends in a remark that takes in the rest of the line. */
function isOpenRemark(behind: string): boolean {
  for (let at = 0; at < behind.length; at++) {
    if (isRemark(behind, at)) at = remarkEnd(behind, at, behind.length);
    if (at === behind.length) return true;
  }
  return false;
}

const REST_OF_LINE = /[ \t]*(?:\/\/[^\r\n]*|\/\*[^\r\n]*?\*\/[ \t]*)?(?=\r?\n)/y;

/** The end of what belongs to the line that is written so far: blanks, and a remark. */
function lineEnd(text: string, at: number, most: number): number {
  REST_OF_LINE.lastIndex = at;
  return REST_OF_LINE.test(text) && REST_OF_LINE.lastIndex <= most ? REST_OF_LINE.lastIndex : at;
}

class Reader {
  constructor(
    private readonly text: string,
    private readonly numbers: Numbers,
  ) {}

  node({ type, offset, length, value, children }: Node): TreeNode {
    const [start, end] = [offset, offset + length];
    const leaf = (told: string): TreeNode => ({ id: this.numbers.of(told), kind: type, start, end });
    if (type === 'number') return leaf(this.text.slice(start, end).replace(/^(-?\d+)(?:\.0+|(\.\d*[1-9])0+)$/, '$1$2'));
    if (!children) return leaf(JSON.stringify(value));
    const isList = type === 'array';
    let from = start + 1;
    const members = children.map((child, i): TreeMember => {
      const [key, inner] = isList ? [undefined, child] : [child.children![0]!, child.children![1]!];
      const node = this.node(inner);
      const own = { start: child.offset, end: child.offset + child.length };
      const next = children[i + 1]?.offset ?? end - 1;
      const comma = commaIn(this.text, own.end, next);
      const to = lineEnd(this.text, comma < 0 ? own.end : comma + 1, next);
      const member = { name: key ? String(key.value) : '', node, ...own, from, to };
      from = to;
      return member;
    });
    const told = isList
      ? `[${members.map(({ node }) => node.id).join()}]`
      : `{${members
          .map(({ name, node }) => `${JSON.stringify(name)}:${node.id}`)
          .toSorted()
          .join()}}`;
    return { id: this.numbers.of(told), kind: type, start, end, members, isList, tail: from };
  }
}

const hasTwice = ({ members, isList }: TreeNode): boolean =>
  members !== undefined &&
  ((!isList && new Set(members.map(({ name }) => name)).size < members.length) ||
    members.some(({ node }) => hasTwice(node)));

/** @returns undefined for what is no JSON, has a key twice, or lies too deep */
function jsonOf(text: string, numbers: Numbers): Tree | undefined {
  if (isTooDeep(text)) return undefined;
  const errors: ParseError[] = [];
  const found = parseTree(text, errors, { allowTrailingComma: true });
  if (!found || errors.length > 0) return undefined;
  const root = new Reader(text, numbers).node(found);
  return hasTwice(root) ? undefined : { text, root };
}

/** Keys whose values tell items of a list apart, before others that might. */
const IDENTITIES = ['id', 'key', 'name', 'uid', 'guid'];

function itemNames(lists: readonly (readonly TreeMember[])[], trees: readonly Tree[]): string[][] | undefined {
  const valueOf = ({ node }: TreeMember, key: string, tree: number): string | undefined => {
    const value = node.kind === 'object' ? node.members!.find(({ name }) => name === key)?.node : undefined;
    return value && !value.members ? trees[tree]!.text.slice(value.start, value.end) : undefined;
  };
  const all = lists.flat();
  const first = all.find(({ node }) => node.kind === 'object')?.node.members?.map(({ name }) => name) ?? [];
  const keys = [
    ...IDENTITIES.filter((key) => first.includes(key)),
    ...first.filter((key) => !IDENTITIES.includes(key)),
  ];
  for (const key of keys) {
    const values = lists.map((list, tree) => list.map((member) => valueOf(member, key, tree)));
    const tellApart = values.every((some) => !some.includes(undefined) && new Set(some).size === some.length);
    if (tellApart) return values.map((some) => some.map((value) => `${key}=${value}`));
  }
  if (lists.some(({ length }) => length !== lists[0]!.length)) return undefined;
  return lists.map((list) => list.map((_, i) => String(i)));
}

/** What stands before a member or a closing bracket, on a line of its own where it would be part of a remark. */
const outsideRemark = (lead: string, { isOpen, lineBreak }: { isOpen: boolean; lineBreak: string }): string =>
  isOpen && !/^[ \t]*\r?\n/.test(lead) ? lineBreak + lead : lead;

const isBlank = (text: string): boolean => text.trim() === '';

/** What stands before a member that comes in: as before the others, without their remarks. */
function leads(text: string, own: readonly TreeMember[]): { first: string; between: string } {
  const [one, two] = own.map(({ from, start }) => text.slice(from, start));
  const plain = (lead: string): string => (isBlank(lead) ? lead : /(?:\r?\n)?[ \t]*$/.exec(lead)![0]);
  if (one === undefined) return { first: ' ', between: ' ' };
  const first = plain(one);
  return { first, between: two === undefined ? (first.includes('\n') ? first : ' ') : plain(two) };
}

const SYNTAX: TreeSyntax = {
  itemNames,

  spell(value, like) {
    const errors: ParseError[] = [];
    const node = parseTree(value, errors, { disallowComments: true });
    const isOne = node !== undefined && errors.length === 0;
    return isOne && (node.type === 'string' || !like.startsWith('"')) ? value.trim() : JSON.stringify(value);
  },

  write(own, node, members) {
    const { text } = own;
    const { first, between } = leads(text, node.members!);
    const last = node.members!.at(-1);
    const endsWithComma = last !== undefined && commaIn(text, last.end, last.to) >= 0;
    const lineBreak = text.includes('\r\n') ? '\r\n' : '\n';
    let written = text[node.start]!;
    let isOpen = false;
    members.forEach(({ text: value, member, tree }, i) => {
      const ownLead = tree === own ? text.slice(member.from, member.start) : '';
      const lead = tree === own && !isBlank(ownLead) ? ownLead : i === 0 ? first : between;
      written += outsideRemark(lead, { isOpen, lineBreak });
      written += value + (i < members.length - 1 || endsWithComma ? ',' : '');
      isOpen = false;
      if (tree !== own) return;
      // Behind its comma, so that a remark to the end of the line does not hold the comma.
      const comma = commaIn(text, member.end, member.to);
      const behind =
        comma < 0
          ? text.slice(member.end, member.to)
          : text.slice(member.end, comma) + text.slice(comma + 1, member.to);
      written += behind;
      isOpen = isOpenRemark(behind);
    });
    const tail = text.slice(node.tail, node.end);
    const end = last === undefined && members.length > 0 ? ` ${tail.trimStart()}` : tail;
    return written + outsideRemark(end, { isOpen, lineBreak });
  },
};

/**
 * Merges two texts in JSON that were made from a third; what is ours keeps its layout and remarks.
 * @returns undefined where one is no JSON, has a key twice, or lies too deep
 */
export const mergeJson = (base: string, ours: string, theirs: string, decide: Decide): Merge | undefined =>
  mergeTrees([base, ours, theirs], jsonOf, SYNTAX, decide);
