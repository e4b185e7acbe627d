import { SaxesParser } from 'saxes';
import type { Decide, Merge } from './difference';
import { mergeTrees, type Numbers, type Tree, type TreeMember, type TreeNode, type TreeSyntax } from './tree';

/*
 * XML. Elements are gone into attribute by attribute and child by child; children of one name are told apart by an attribute that is
 * another one in each, else by their number, else by what stands around them. Text with elements in it is one value, and entities stay
 * as they are written.
 */

/** What an element holds, as a member of it beside its attributes; no name in XML begins like that. */
const CHILDREN = '#children';
const TEXT = '#text';

/** An element that is not ended yet. */
interface Open {
  readonly name: string;
  /** Of its start tag; `inner` behind it. */
  readonly start: number;
  inner: number;
  readonly attributes: TreeMember[];
  readonly children: TreeMember[];
  hasText: boolean;
  /** Where what stands before the next attribute or child begins. */
  from: number;
}

class Reader {
  readonly #root: Open = open('', 0, 0);
  readonly #stack: Open[] = [this.#root];

  constructor(
    private readonly text: string,
    private readonly numbers: Numbers,
  ) {}

  /** @returns undefined for what is no XML; an entity that only a file elsewhere explains is no fault */
  read(): Tree | undefined {
    const { text } = this;
    const parser = new SaxesParser({ fragment: true });
    let isFaulty = false;
    parser.on('error', ({ message }) => {
      if (!message.includes('undefined entity')) isFaulty = true;
    });
    parser.on('opentagstart', ({ name }) => {
      const start = text.lastIndexOf('<', parser.position - 1);
      this.#stack.push(open(name, start, start + 1 + name.length));
    });
    parser.on('attribute', ({ name }) => this.#attribute(name, parser.position));
    parser.on('opentag', ({ isSelfClosing }) => {
      const element = this.#stack.at(-1)!;
      element.inner = parser.position - (isSelfClosing ? 2 : 1);
      element.from = parser.position;
    });
    parser.on('closetag', () => this.#close(parser.position));
    const noteText = (some: string): void => {
      if (some.trim() !== '') this.#stack.at(-1)!.hasText = true;
    };
    parser.on('text', noteText);
    parser.on('cdata', () => noteText('cdata'));
    // An XML declaration and a document type stand in a whole document alone; they and remarks are passed over.
    const body = /^\uFEFF?(?:\s|<\?[^]*?\?>|<!--[^]*?-->|<!DOCTYPE[^[>]*(?:\[[^\]]*\]\s*)?>)*/.exec(text)![0];
    parser.write(' '.repeat(body.length) + text.slice(body.length)).close();
    if (isFaulty || this.#stack.length > 1 || this.#root.hasText || this.#root.children.length === 0) return undefined;
    return {
      text,
      root: this.#list(this.#root.children, { kind: 'document', start: 0, end: text.length, tail: this.#root.from }),
    };
  }

  #attribute(name: string, position: number): void {
    const { text } = this;
    const element = this.#stack.at(-1)!;
    const valueAt = text.lastIndexOf(text[position - 1]!, position - 2);
    const start = text.lastIndexOf(name, text.lastIndexOf('=', valueAt));
    const told = text.slice(valueAt + 1, position - 1);
    const node = { id: this.numbers.of(`"${told}`), kind: 'attribute', start: valueAt, end: position };
    element.attributes.push({ name: `@${name}`, node, from: element.from, to: position, start, end: position });
    element.from = position;
  }

  #close(end: number): void {
    const element = this.#stack.pop();
    const above = this.#stack.at(-1);
    if (!element || !above) return;
    const { name, start, inner, attributes, children, hasText, from } = element;
    const [contentFrom, contentTo] =
      this.text[inner] === '/' ? [end, end] : [inner + 1, this.text.lastIndexOf('<', end - 1)];
    const node = hasText
      ? {
          id: this.numbers.of(`>${this.text.slice(contentFrom, contentTo)}`),
          ...{ kind: 'text', start: contentFrom, end: contentTo },
        }
      : this.#list(children, { kind: `children of ${name}`, start: inner, end, tail: Math.max(from, contentFrom) });
    const content = { name: hasText ? TEXT : CHILDREN, node, from: inner, to: end, start: inner, end };
    const told = attributes.map(({ name: own, node: { id } }) => `${own}=${id}`).toSorted();
    const own: TreeNode = {
      id: this.numbers.of(`<${name} ${told.join(' ')}>${node.id}`),
      ...{ kind: `<${name}>`, start, end, members: [...attributes, content], tail: end },
    };
    above.children.push({ name: '', node: own, from: above.from, to: end, start, end });
    above.from = end;
  }

  #list(members: TreeMember[], place: Omit<TreeNode, 'id' | 'members'>): TreeNode {
    return { id: this.numbers.of(`[${members.map(({ node }) => node.id).join()}]`), members, isList: true, ...place };
  }
}

function open(name: string, start: number, from: number): Open {
  return { name, start, inner: from, attributes: [], children: [], hasText: false, from };
}

const nameOf = ({ node }: TreeMember): string => node.kind.slice(1, -1);

/** Attributes whose values tell elements apart, before others that might. */
const IDENTITIES = ['@id', '@key', '@name'];

function itemNames(lists: readonly (readonly TreeMember[])[], trees: readonly Tree[]): string[][] | undefined {
  const valueOf = ({ node }: TreeMember, attribute: string, tree: number): string | undefined => {
    const value = node.members!.find(({ name }) => name === attribute)?.node;
    return value && trees[tree]!.text.slice(value.start + 1, value.end - 1);
  };
  const names = lists.map(({ length }) => new Array<string>(length));
  for (const name of new Set(lists.flat().map(nameOf))) {
    const groups = lists.map((list) =>
      list.flatMap((member, i) => (nameOf(member) === name ? [[member, i] as const] : [])),
    );
    const put = (tell: (member: TreeMember, tree: number, number: number) => string): void =>
      groups.forEach((group, tree) =>
        group.forEach(([member, i], number) => (names[tree]![i] = tell(member, tree, number))),
      );
    const attributes = groups
      .flat()[0]![0]
      .node.members!.map(({ name: own }) => own)
      .filter((own) => own.startsWith('@'));
    const keys = [
      ...IDENTITIES.filter((key) => attributes.includes(key)),
      ...attributes.filter((key) => !IDENTITIES.includes(key)),
    ];
    const key = keys.find((one) =>
      groups.every((group, tree) => {
        const values = group.map(([member]) => valueOf(member, one, tree));
        return !values.includes(undefined) && new Set(values).size === values.length;
      }),
    );
    const isOne = groups.every(({ length }) => length <= 1);
    if (isOne && (key === undefined || !IDENTITIES.includes(key))) put(() => name);
    else if (key !== undefined) put((member, tree) => `${name}[${key}="${valueOf(member, key, tree)}"]`);
    else if (groups.every(({ length }) => length === groups[0]!.length))
      put((_, __, number) => `${name}[${number + 1}]`);
    else return undefined;
  }
  return names;
}

const ENTITIES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '"': '&quot;' };
const escaped = (value: string): string => value.replace(/[&<"]/g, (sign) => ENTITIES[sign]!);

const SYNTAX: TreeSyntax = {
  itemNames,

  spell: (value, like) => (/^["']/.test(like) ? `"${escaped(value)}"` : escaped(value)),

  write(own, node, members) {
    const { text } = own;
    const leadOf = ({ from, start }: TreeMember): string => text.slice(from, start);
    const isElement = node.kind.startsWith('<');
    const model = isElement ? ' ' : (node.members!.map(leadOf).findLast((lead) => /^\s*$/.test(lead)) ?? '\n');
    const between = /\n[^]*$/.test(model) ? `\n${/[^\n]*$/.exec(model)![0]}` : model;
    const end = text.includes('\r\n') ? between.replace(/\r?\n/, '\r\n') : between;
    const isContent = ({ name }: TreeMember): boolean => name === CHILDREN || name === TEXT;
    const pieces = members.map(({ text: written, member, tree }) => {
      if (isContent(member)) return written;
      return (tree === own ? leadOf(member) : end) + written;
    });
    if (isElement) {
      const content = members.findIndex(({ member }) => isContent(member));
      const attributes = pieces.filter((_, i) => !isContent(members[i]!.member));
      return (
        text.slice(node.start, node.start + node.kind.length - 1) + attributes.join('') + (pieces[content] ?? '/>')
      );
    }
    if (node.kind === 'document') return pieces.join('') + text.slice(node.tail, node.end);
    const name = node.kind.slice('children of '.length);
    const isEmpty = text[node.start] === '/';
    const tail = isEmpty ? (members.length > 0 ? `</${name}>` : '') : text.slice(node.tail, node.end);
    return (isEmpty && members.length === 0 ? '/>' : '>') + pieces.join('') + tail;
  },
};

const shown = (value: string | undefined, isAttribute: boolean): string | undefined =>
  isAttribute ? value?.slice(1, -1) : value;

/**
 * Merges two texts in XML that were made from a third; what is ours keeps its layout and remarks.
 * @returns undefined where one is no XML
 */
export function mergeXml(base: string, ours: string, theirs: string, decide: Decide): Merge | undefined {
  const told = (path: readonly string[]): string[] => path.filter((name) => !name.startsWith('#'));
  const plain: Decide = ({ path, base: was, ours: mine, theirs: their, ...rest }) => {
    const isAttribute = path.at(-1)!.startsWith('@');
    return decide({
      ...{ ...rest, path: told(path), base: shown(was, isAttribute) },
      ...{ ours: shown(mine, isAttribute), theirs: shown(their, isAttribute) },
    });
  };
  const merge = mergeTrees([base, ours, theirs], (text, numbers) => new Reader(text, numbers).read(), SYNTAX, plain);
  return (
    merge && {
      ...merge,
      differences: merge.differences.map((one) => {
        const isAttribute = one.path.at(-1)!.startsWith('@');
        const [was, mine, their] = [one.base, one.ours, one.theirs].map((value) => shown(value, isAttribute));
        return { ...one, path: told(one.path), base: was, ours: mine, theirs: their };
      }),
    }
  );
}
