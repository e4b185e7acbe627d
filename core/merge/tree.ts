import { changedBy, type Decide, type Difference, Differences, type Merge, unchangedSide } from './difference';
import { mergedOrder } from './names';
import { mergeParts, type Part } from './three-way';

/* Texts whose values lie in one another, as those of JSON and XML do. Each text keeps its layout: what is merged is cut from it. */

/** Gives equal values one number each, whatever text they come from. */
export class Numbers {
  readonly #known = new Map<string, number>();

  of(value: string): number {
    const known = this.#known.get(value);
    if (known !== undefined) return known;
    this.#known.set(value, this.#known.size);
    return this.#known.size - 1;
  }
}

/** A value in a text. */
export interface TreeNode {
  /** Equal for equal values, whatever their layout. */
  readonly id: number;
  /** Values of the same kind are gone into, where they have members. */
  readonly kind: string;
  /** Where it is written in its text. */
  readonly start: number;
  readonly end: number;
  /** Of what is gone into; a list's have no names of their own. */
  readonly members?: readonly TreeMember[];
  readonly isList?: boolean;
  /** Of what is gone into: where the text behind its last member begins. */
  readonly tail?: number;
}

export interface TreeMember {
  readonly name: string;
  readonly node: TreeNode;
  /** With the blanks and remarks before it, and the sign behind it that parts it from the next one. */
  readonly from: number;
  readonly to: number;
  /** Where it begins and ends itself, with its name. */
  readonly start: number;
  readonly end: number;
}

/** A text and the value in it. */
export interface Tree {
  readonly text: string;
  readonly root: TreeNode;
}

/** What parts members in one kind of text, and how values are written there. */
export interface TreeSyntax {
  /** Names for the items of lists, if they have some that tell them apart in each list. */
  readonly itemNames: (lists: readonly (readonly TreeMember[])[], trees: readonly Tree[]) => string[][] | undefined;
  /** A value that a person wrote, as it is written in place of another one. */
  readonly spell: (value: string, like: string) => string;
  /**
   * The text of a value whose members are not those that it had.
   * @param members their texts, `from` the member that each is of
   */
  readonly write: (
    tree: Tree,
    node: TreeNode,
    members: readonly { readonly text: string; readonly member: TreeMember; readonly tree: Tree }[],
  ) => string;
}

/** Deeper than that nothing is gone into. */
export const DEEPEST = 200;

type Three<T> = readonly [base: T, ours: T, theirs: T];
const BASE = 0;
const OURS = 1;
const THEIRS = 2;

const written = ({ text }: Tree, node: TreeNode): string => text.slice(node.start, node.end);

class TreeMerge {
  constructor(
    private readonly trees: Three<Tree>,
    private readonly syntax: TreeSyntax,
    private readonly found: Differences,
  ) {}

  /** The text of a member as it is merged; undefined where it is to be left out. */
  member(path: readonly string[], three: Three<TreeMember | undefined>): { text: string; side: 1 | 2 } | undefined {
    const nodes = three.map((one) => one?.node) as unknown as Three<TreeNode | undefined>;
    const merged = this.node(path, nodes);
    if (!merged) return undefined;
    const member = three[merged.side]!;
    const { text } = this.trees[merged.side];
    return {
      text: text.slice(member.start, member.node.start) + merged.text + text.slice(member.node.end, member.end),
      side: merged.side,
    };
  }

  /** The text of a value as it is merged, and in whose text it has its place; undefined where it is to be left out. */
  node(path: readonly string[], nodes: Three<TreeNode | undefined>): { text: string; side: 1 | 2 } | undefined {
    const [base, ours, theirs] = nodes;
    const by = changedBy(base?.id, ours?.id, theirs?.id);
    const own = ours && { text: written(this.trees[OURS], ours), side: OURS as 1 };
    if (!by) return own;
    const isGoneInto =
      path.length < DEEPEST &&
      ours?.members &&
      theirs?.members &&
      ours.kind === theirs.kind &&
      (base === undefined || (base.members !== undefined && base.kind === ours.kind));
    if (isGoneInto) return { text: this.members(path, [base, ours, theirs]), side: OURS };
    const [was, mine, their] = nodes.map((node, side) => node && written(this.trees[side as 0 | 1 | 2], node));
    const counts = this.found.note({ path, what: 'value', base: was, ours: mine, theirs: their, by });
    if (counts === 'ours') return own;
    if (counts === 'theirs') {
      if (!theirs) return undefined;
      // In the place that it has in ours, where there is one: its name is written as ours is.
      return { text: their!, side: ours ? OURS : THEIRS };
    }
    const side = ours ? OURS : THEIRS;
    return { text: this.syntax.spell(counts.value, mine ?? their ?? ''), side };
  }

  members(path: readonly string[], [base, ours, theirs]: readonly [TreeNode | undefined, TreeNode, TreeNode]): string {
    const lists = [base?.members ?? [], ours.members!, theirs.members!] as const;
    if (!ours.isList)
      return this.named(
        path,
        ours,
        lists,
        lists.map((list) => list.map(({ name }) => name)),
      );
    const names = this.syntax.itemNames(lists, this.trees);
    return names ? this.named(path, ours, lists, names) : this.listed(path, ours, lists);
  }

  named(
    path: readonly string[],
    ours: TreeNode,
    lists: readonly (readonly TreeMember[])[],
    names: readonly (readonly string[])[],
  ): string {
    const maps = lists.map((list, side) => new Map(list.map((member, i) => [names[side]![i]!, member])));
    const all = new Set(names.flat());
    const texts = new Map<string, { text: string; member: TreeMember; tree: Tree }>();
    for (const name of all) {
      const three = maps.map((map) => map.get(name)) as unknown as Three<TreeMember | undefined>;
      const merged = this.member([...path, name], three);
      if (merged) texts.set(name, { text: merged.text, member: three[merged.side]!, tree: this.trees[merged.side] });
    }
    const order = mergedOrder(names[BASE]!, names[OURS]!, names[THEIRS]!, (name) => texts.has(name));
    return this.text(
      ours,
      lists[OURS]!,
      order.map((name) => texts.get(name)!),
    );
  }

  /** Items that have no names are told apart by what stands around them. */
  listed(path: readonly string[], ours: TreeNode, lists: readonly (readonly TreeMember[])[]): string {
    const ids = lists.map((list) => Int32Array.from(list, ({ node }) => node.id));
    const parts = mergeParts(ids[BASE]!, ids[OURS]!, ids[THEIRS]!);
    const members = parts.flatMap((part) => {
      const counts = part.take === 'base' ? 'ours' : this.part(path, part, lists);
      if (typeof counts === 'object') return [{ ...counts, member: lists[OURS]![part.ours[0]] ?? lists[THEIRS]![0]! }];
      const side = counts === 'ours' ? OURS : THEIRS;
      const tree = this.trees[side];
      return lists[side]!.slice(...part[counts]).map((member) => ({
        ...{ text: tree.text.slice(member.start, member.end), member, tree },
      }));
    });
    return this.text(ours, lists[OURS]!, members);
  }

  private part(
    path: readonly string[],
    part: Part,
    lists: readonly (readonly TreeMember[])[],
  ): 'ours' | 'theirs' | { text: string; tree: Tree } {
    const texts = [part.base, part.ours, part.theirs].map(([from, to], side) => {
      const items = lists[side]!.slice(from, to);
      const { text } = this.trees[side as 0 | 1 | 2];
      return items.length === 0 ? undefined : items.map(({ start, end }) => text.slice(start, end)).join(', ');
    });
    const by: Difference['by'] = part.take === 'same' ? 'alike' : (part.take as 'ours' | 'theirs' | 'conflict');
    const place = String(part.base[0]);
    const [base, ours, theirs] = texts;
    const counts = this.found.note({ path: [...path, place], what: 'value', base, ours, theirs, by });
    return typeof counts === 'object' ? { text: counts.value, tree: this.trees[OURS] } : counts;
  }

  /** Members in their places: where they are those that were there, all that stands between them stays. */
  private text(
    ours: TreeNode,
    before: readonly TreeMember[],
    members: readonly { readonly text: string; readonly member: TreeMember; readonly tree: Tree }[],
  ): string {
    const { text } = this.trees[OURS];
    if (members.length !== before.length || members.some(({ member }, i) => member !== before[i]))
      return this.syntax.write(this.trees[OURS], ours, members);
    let [merged, at] = ['', ours.start];
    members.forEach(({ text: own, member }) => {
      merged += text.slice(at, member.start) + own;
      at = member.end;
    });
    return merged + text.slice(at, ours.end);
  }
}

/**
 * Merges two texts that were made from a third, value by value.
 * @param parse of a text; undefined where it cannot be read
 * @returns undefined where one cannot be read
 */
export function mergeTrees(
  [base, ours, theirs]: Three<string>,
  parse: (text: string, numbers: Numbers) => Tree | undefined,
  syntax: TreeSyntax,
  decide: Decide,
): Merge | undefined {
  const numbers = new Numbers();
  const trees = [base, ours, theirs].map((text) => parse(text, numbers));
  if (!trees.every((tree) => tree !== undefined)) return undefined;
  const found = new Differences(decide);
  const three = trees as unknown as Three<Tree>;
  const roots = three.map(({ root }) => root) as unknown as Three<TreeNode>;
  const merged = new TreeMerge(three, syntax, found).node([], roots);
  const own = three[OURS].text;
  const around = merged && own.slice(0, roots[OURS].start) + merged.text + own.slice(roots[OURS].end);
  return {
    differences: found.all,
    merged: found.isOpen ? undefined : (unchangedSide(base, ours, theirs) ?? around),
  };
}
