import { SaxesParser, type SaxesTagNS } from 'saxes';
import { isPieceSize, PIECE_SIZE, pieceCount } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import { type ChecksumKind, kindOfDigest } from '#core/lists';
import { PathSet } from '#core/paths';
import { shortenMiddle } from '#core/text';
import type { BuildLabel, DepotId } from '#core/builds';
import {
  fileAt,
  type Manifest,
  manifestDigests,
  type ManifestFile,
  manifestFromFiles,
  OTHER_KINDS,
  type OtherKind,
} from './manifest';

const NAMESPACE = 'urn:ietf:params:xml:ns:metalink';
const MAX_LENGTH = 256 << 20;
const MAX_FILES = 1_000_000;

interface OpenFile {
  readonly path: string;
  /** Of its element. */
  readonly line: number;
  size?: number;
  sha256?: string;
  cut?: { readonly pieceSize: number; readonly pieces: string[] };
  readonly others: Partial<Record<OtherKind, string>>;
}

const isOtherKind = (type: string): type is OtherKind => OTHER_KINDS.some((kind) => kind === type);

/** A file that is read whole is complete, or it is refused with the line of its `file` element. */
function closeFile(open: OpenFile, file: string): ManifestFile {
  const { path, line, size, sha256, cut, others } = open;
  const facts = { file, line, path };
  if (size === undefined) throw new Failure('metalink/malformed', { ...facts, what: 'size is missing' });
  if (sha256 === undefined) throw new Failure('metalink/malformed', { ...facts, what: 'sha-256 hash is missing' });
  const pieceSize = cut?.pieceSize ?? PIECE_SIZE;
  const expected = pieceCount(size, pieceSize);
  // A file of one piece may leave the pieces out: they would only repeat its hash.
  const pieces = cut?.pieces ?? (expected === 1 ? [sha256] : []);
  if (pieces.length !== expected) {
    throw new Failure('metalink/pieces', { ...facts, expected, found: pieces.length });
  }
  if (expected === 1 && pieces[0] !== sha256) {
    throw new Failure('metalink/pieces', { ...facts, expected: sha256, found: pieces[0]! });
  }
  const told = { path, size, sha256, ...(Object.keys(others).length > 0 && { others }) };
  // The digest of the whole is all that a small file needs, whatever it is cut into.
  if (size <= PIECE_SIZE) return { ...told, pieces: [sha256] };
  return { ...told, pieces, ...(pieceSize !== PIECE_SIZE && { pieceSize }) };
}

/** Elements deeper inside one another than RFC 5854 nests its own, with room for those of others. */
const MAX_DEPTH = 32;

/** Attributes of one element, and elements below the root that declare a namespace, in a document that is meant well. */
const MAX_ATTRIBUTES = 64;
const MAX_NAMESPACES = 10_000;
/** Characters of a comment, an instruction or a literal section. */
const MAX_SECTION = 100_000;
/** How many of these there may be. */
const MAX_SECTIONS = 100_000;

/**
 * Refuses a document type, and what begins and does not end soon: the parser holds all of such a section before it tells.
 * @throws Failure `metalink/malformed`
 */
function assertPlainMarkup(text: string, file: string): void {
  const refuse = (at: number, what: string): never => {
    const line = 1 + (text.slice(0, at).match(/\n/g)?.length ?? 0);
    throw new Failure('metalink/malformed', { file, line, what });
  };
  const ends = { '<!--': '-->', '<![CDATA[': ']]>', '<?': '?>' };
  let sections = 0;
  for (const { 0: start, index } of text.matchAll(/<!--|<!\[CDATA\[|<\?|<!/g)) {
    if (start === '<!') refuse(index, 'a document type is not accepted');
    if (++sections > MAX_SECTIONS) refuse(index, `more than ${MAX_SECTIONS} comments and the like`);
    const end = ends[start as keyof typeof ends];
    const length = text.slice(index, index + MAX_SECTION).indexOf(end);
    if (length < 0) refuse(index, `${start} without ${end} within ${MAX_SECTION} characters`);
  }
}

/** Elements that mean something here, by the way to them from the root. All others are passed over, with what is in them. */
const KNOWN = new Set(['file', 'file/size', 'file/hash', 'file/pieces', 'file/pieces/hash']);

/** Takes a Metalink document apart as its elements come. */
class MetalinkReader {
  readonly files: ManifestFile[] = [];
  readonly #names = new PathSet();
  /** Names of the open elements below the root, for as long as they are known. */
  #way: string[] = [];
  #depth = 0;
  /** Depth of the outermost open element that means nothing here; 0 where there is none. */
  #passedOver = 0;
  #open: OpenFile | undefined;
  #hashType = '';
  #attributes = 0;
  #namespaces = 0;
  #words = '';

  constructor(
    private readonly parser: SaxesParser<{ xmlns: true }>,
    private readonly file: string,
  ) {}

  refuse(what: string): never {
    const { path } = this.#open ?? {};
    throw new Failure('metalink/malformed', { file: this.file, line: this.parser.line, path, what });
  }

  /** What may stand only once is refused the second time, even where it says the same. */
  #once(isThere: boolean, what: string): void {
    if (isThere) this.refuse(`a second ${what}`);
  }

  #digest(kind: ChecksumKind): string {
    const hex = this.#words.trim().toLowerCase();
    if (kindOfDigest(hex) !== kind) {
      const { line } = this.parser;
      const found = shortenMiddle(hex, 80);
      throw new Failure('digest/malformed', { file: this.file, line, path: this.#open?.path, found });
    }
    return hex;
  }

  countAttribute(): void {
    this.#attributes += 1;
    if (this.#attributes > MAX_ATTRIBUTES) this.refuse(`an element has more than ${MAX_ATTRIBUTES} attributes`);
  }

  openElement({ local, uri, attributes, ns }: SaxesTagNS): void {
    this.#attributes = 0;
    this.#depth += 1;
    if (this.#depth > 1 && ns && Object.keys(ns).length > 0) this.#namespaces += 1;
    if (this.#namespaces > MAX_NAMESPACES) this.refuse(`more than ${MAX_NAMESPACES} elements declare a namespace`);
    if (this.#depth > MAX_DEPTH) this.refuse(`elements are nested more than ${MAX_DEPTH} deep`);
    if (this.#depth === 1) {
      if (local !== 'metalink' || uri !== NAMESPACE) this.refuse(`the root is not a metalink element of ${NAMESPACE}`);
      return;
    }
    if (this.#passedOver > 0) return;
    const way = [...this.#way, local].join('/');
    if (uri !== NAMESPACE || !KNOWN.has(way)) {
      const inside = this.#way.join('/');
      if (inside !== '' && inside !== 'file') this.refuse(`an element ${local} inside ${this.#way.at(-1)}`);
      this.#passedOver = this.#depth;
      return;
    }
    this.#way.push(local);
    this.#words = '';
    const attribute = (name: string): string => attributes[name]?.value ?? '';
    if (way === 'file') this.#openFile(attribute('name'));
    else if (way === 'file/hash') this.#hashType = attribute('type');
    else if (way === 'file/pieces') this.#openPieces(attribute('type'), attribute('length'));
  }

  #openFile(path: string): void {
    const { line } = this.parser;
    if (this.files.length >= MAX_FILES) this.refuse(`more than ${MAX_FILES} files`);
    this.#names.add(path, { file: this.file, line });
    this.#open = { path, line, others: {} };
  }

  #openPieces(type: string, length: string): void {
    this.#once(this.#open!.cut !== undefined, 'list of pieces');
    const pieceSize = /^\d{1,15}$/.test(length) ? Number(length) : NaN;
    if (type !== 'sha-256' || !isPieceSize(pieceSize)) {
      throw new Failure('metalink/unsupported', {
        file: this.file,
        line: this.parser.line,
        path: this.#open!.path,
        expected: 'sha-256 pieces of 16384 bytes, or of that times a power of two',
        found: `${type || 'unnamed'} pieces of ${length || 'no'} bytes`,
      });
    }
    this.#open!.cut = { pieceSize, pieces: [] };
  }

  text(words: string): void {
    if (this.#passedOver === 0) this.#words += words;
  }

  closeElement(): void {
    const depth = this.#depth--;
    if (this.#passedOver > 0) {
      if (this.#passedOver === depth) this.#passedOver = 0;
      return;
    }
    const way = this.#way.join('/');
    this.#way.pop();
    const open = this.#open!;
    switch (way) {
      case 'file':
        this.files.push(closeFile(open, this.file));
        this.#open = undefined;
        break;
      case 'file/size': {
        this.#once(open.size !== undefined, 'size');
        const size = this.#words.trim();
        if (!/^\d{1,15}$/.test(size)) this.refuse(`"${shortenMiddle(size, 40)}" is not a size in bytes`);
        open.size = Number(size);
        break;
      }
      case 'file/hash':
        if (this.#hashType === 'sha-256') {
          this.#once(open.sha256 !== undefined, 'hash of type sha-256');
          open.sha256 = this.#digest('sha-256');
        } else if (isOtherKind(this.#hashType)) {
          this.#once(open.others[this.#hashType] !== undefined, `hash of type ${this.#hashType}`);
          open.others[this.#hashType] = this.#digest(this.#hashType);
        }
        break;
      case 'file/pieces/hash':
        open.cut!.pieces.push(this.#digest('sha-256'));
    }
  }
}

/**
 * Reads a Metalink 4 document (RFC 5854) with a size, a SHA-256 and SHA-256 pieces for each file; pieces are of any power of
 * two from 16 KiB up. Elements that RFC 5854 allows and Regressum has no use for, and those of other namespaces, are passed
 * over; a document type (and so any entity of its own) is refused, and so is what stands twice or says nothing.
 * @param file how the text is called in errors
 * @throws Failure `metalink/*`, `digest/malformed` or `path/*`, with file and line, and the entry where one is open
 */
export function parseMetalink(text: string, build: BuildLabel, depot: DepotId, file: string): Manifest {
  if (text.length > MAX_LENGTH) throw new Failure('metalink/malformed', { file, line: 1, what: 'it is too long' });
  const parser = new SaxesParser({ xmlns: true });
  const reader = new MetalinkReader(parser, file);
  parser.on('error', (error) => reader.refuse(error.message.replace(/^[\d:\s]+/, '')));
  parser.on('attribute', () => reader.countAttribute());
  parser.on('opentag', (tag) => reader.openElement(tag));
  parser.on('text', (words) => reader.text(words));
  parser.on('cdata', (words) => reader.text(words));
  parser.on('closetag', () => reader.closeElement());
  try {
    assertPlainMarkup(text, file);
    parser.write(text).close();
  } catch (error) {
    if (isFailure(error)) throw error;
    throw new Failure('metalink/malformed', { file, line: parser.line, what: String(error) }, { cause: error });
  }
  if (reader.files.length === 0) throw new Failure('metalink/malformed', { file, line: 1, what: 'it lists no files' });
  return manifestFromFiles(build, depot, reader.files);
}

const ESCAPES: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escape = (text: string): string => text.replace(/[&<>"]/g, (sign) => ESCAPES[sign]!);

/**
 * Writes a manifest as Metalink 4 (RFC 5854), so that {@link parseMetalink} reads the same columns back.
 * @param url where a file is to be had, absolute or relative to the document
 */
export function writeMetalink(manifest: Manifest, url: (path: string) => string): string {
  const lines = ['<?xml version="1.0" encoding="UTF-8"?>', `<metalink xmlns="${NAMESPACE}">`];
  const others = OTHER_KINDS.flatMap((kind) => {
    const digests = manifestDigests(manifest, kind);
    return digests ? [{ kind, digests }] : [];
  });
  manifest.paths.forEach((_, i) => {
    const { path, size, sha256, pieces, pieceSize = PIECE_SIZE } = fileAt(manifest, i);
    lines.push(
      `  <file name="${escape(path)}">`,
      `    <size>${size}</size>`,
      `    <hash type="sha-256">${sha256}</hash>`,
      ...others.map(({ kind, digests }) => `    <hash type="${kind}">${digests[i]}</hash>`),
      `    <pieces length="${pieceSize}" type="sha-256">`,
      ...pieces.map((piece) => `      <hash>${piece}</hash>`),
      '    </pieces>',
      `    <url>${escape(url(path))}</url>`,
      '  </file>',
    );
  });
  return [...lines, '</metalink>', ''].join('\n');
}
