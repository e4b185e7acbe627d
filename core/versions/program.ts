/*
 * The version that a Windows program carries as a resource. The layout is that of Microsoft's "PE Format" (headers, sections,
 * the resource tree) and of VS_VERSIONINFO. Only the parts that are needed are read, of a file of any size; whatever does not
 * fit together tells nothing.
 */

/** Bytes `[start, end)` of a file; fewer where it ends earlier. */
export type ReadBytes = (start: number, end: number) => Promise<Uint8Array>;

const RT_VERSION = 16;
/** Bytes of a resource of versions that are looked at; a usual one has a thousand. */
const MOST_RESOURCE = 64 << 10;
const MOST_SECTIONS = 96;
const MOST_ENTRIES = 256;
const FIXED_SIGNATURE = 0xfeef04bd;
const SUBFOLDER = 0x8000_0000;

class Bytes {
  readonly #view: DataView;

  constructor(readonly bytes: Uint8Array) {
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  u16 = (at: number): number => (at + 2 <= this.bytes.length ? this.#view.getUint16(at, true) : 0);
  u32 = (at: number): number => (at + 4 <= this.bytes.length ? this.#view.getUint32(at, true) : 0);

  /** UTF-16 up to its zero. */
  text(at: number, end: number): string {
    let text = '';
    for (let i = at; i + 1 < Math.min(end, this.bytes.length); i += 2) {
      const code = this.u16(i);
      if (code === 0) break;
      text += String.fromCharCode(code);
    }
    return text;
  }
}

interface Section {
  readonly address: number;
  readonly size: number;
  readonly offset: number;
}

/** Where the resources lie; undefined for what is no such program, or has none. */
async function resources(read: ReadBytes): Promise<{ rva: number; sections: Section[] } | undefined> {
  const head = new Bytes(await read(0, 64));
  if (head.u16(0) !== 0x5a4d) return undefined;
  const at = head.u32(60);
  const pe = new Bytes(await read(at, at + 264 + 40 * MOST_SECTIONS));
  if (pe.u32(0) !== 0x4550) return undefined;
  const magic = pe.u16(24);
  const directories = magic === 0x10b ? 24 + 96 : magic === 0x20b ? 24 + 112 : undefined;
  if (directories === undefined || pe.u32(directories - 4) < 3) return undefined;
  const rva = pe.u32(directories + 16);
  const table = 24 + pe.u16(20);
  const sections = Array.from({ length: Math.min(MOST_SECTIONS, pe.u16(6)) }, (_, i) => {
    const one = table + 40 * i;
    return { address: pe.u32(one + 12), size: Math.max(pe.u32(one + 8), pe.u32(one + 16)), offset: pe.u32(one + 20) };
  });
  return rva === 0 ? undefined : { rva, sections };
}

function offsetOf(rva: number, sections: readonly Section[]): number | undefined {
  const section = sections.find(({ address, size }) => rva >= address && rva < address + size);
  return section && section.offset + (rva - section.address);
}

/** The offset of the first entry of a folder of resources, or of that with an id. */
async function entryOf(read: ReadBytes, folder: number, id?: number): Promise<number | undefined> {
  const head = new Bytes(await read(folder, folder + 16));
  const count = Math.min(MOST_ENTRIES, head.u16(12) + head.u16(14));
  const entries = new Bytes(await read(folder + 16, folder + 16 + 8 * count));
  for (let i = 0; i < count; i++) {
    const offset = entries.u32(8 * i + 4);
    if (offset !== 0 && (id === undefined || entries.u32(8 * i) === id)) return offset;
  }
  return undefined;
}

async function versionResource(read: ReadBytes): Promise<Bytes | undefined> {
  const found = await resources(read);
  const base = found && offsetOf(found.rva, found.sections);
  if (base === undefined) return undefined;
  let offset = await entryOf(read, base, RT_VERSION);
  // By name, then by language.
  for (let level = 0; level < 2 && offset !== undefined && offset >= SUBFOLDER; level++)
    offset = await entryOf(read, base + (offset - SUBFOLDER));
  if (offset === undefined || offset >= SUBFOLDER) return undefined;
  const entry = new Bytes(await read(base + offset, base + offset + 16));
  const start = offsetOf(entry.u32(0), found!.sections);
  const size = Math.min(entry.u32(4), MOST_RESOURCE);
  return start === undefined || size === 0 ? undefined : new Bytes(await read(start, start + size));
}

const aligned = (at: number): number => (at + 3) & ~3;

/** A node of the tree of versions: its name, its value, and where its children begin and end. */
function nodeAt(bytes: Bytes, at: number) {
  const [length, valueLength, isText] = [bytes.u16(at), bytes.u16(at + 2), bytes.u16(at + 4) === 1];
  const end = at + length;
  const name = bytes.text(at + 6, end);
  const value = aligned(at + 6 + 2 * (name.length + 1));
  return { name, value, children: aligned(value + (isText ? 2 : 1) * valueLength), end };
}

/** The text of a name among a node's children and theirs. */
function textIn(bytes: Bytes, from: number, to: number, name: string, depth = 0): string | undefined {
  for (let at = from, count = 0; at < to && count < MOST_ENTRIES; count++) {
    const node = nodeAt(bytes, at);
    if (node.end <= at + 6) return undefined;
    const found =
      node.name === name
        ? bytes.text(node.value, node.end).trim()
        : depth < 2
          ? textIn(
              bytes,
              node.name === 'StringFileInfo' || depth > 0 ? aligned(node.value) : node.end,
              node.end,
              name,
              depth + 1,
            )
          : undefined;
    if (found) return found;
    at = aligned(node.end);
  }
  return undefined;
}

/** What a Windows program says its version is: the product's, as text or as four numbers. Undefined where it says none. */
export async function programVersion(read: ReadBytes): Promise<string | undefined> {
  const bytes = await versionResource(read);
  if (!bytes) return undefined;
  const root = nodeAt(bytes, 0);
  const told = ['ProductVersion', 'FileVersion'].map((name) => textIn(bytes, root.children, root.end, name));
  const text = told.find((one) => one !== undefined && /\d/.test(one));
  if (text !== undefined) return text.slice(0, 60);
  if (bytes.u32(root.value) !== FIXED_SIGNATURE) return undefined;
  const numbers = [root.value + 16, root.value + 20].flatMap((at) => [bytes.u32(at) >>> 16, bytes.u32(at) & 0xffff]);
  return numbers.some((n) => n > 0) ? numbers.join('.') : undefined;
}
