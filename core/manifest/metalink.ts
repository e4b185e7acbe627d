import { SaxesParser, type SaxesTagNS } from 'saxes';
import { PIECE_SIZE, pieceCount } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import { type ChecksumKind, kindOfDigest } from '#core/lists';
import { PathSet } from '#core/paths';
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
  path: string;
  line: number;
  size?: number;
  sha256?: string;
  pieces?: string[];
  others: Partial<Record<OtherKind, string>>;
}

const isOtherKind = (type: string): type is OtherKind => OTHER_KINDS.some((kind) => kind === type);

/** A file that is read whole is complete, or it is refused with the line of its `file` element. */
function closeFile(open: OpenFile, file: string): ManifestFile {
  const { path, line, size, sha256 } = open;
  const facts = { file, line, path };
  if (size === undefined) throw new Failure('metalink/malformed', { ...facts, what: 'size is missing' });
  if (sha256 === undefined) throw new Failure('metalink/malformed', { ...facts, what: 'sha-256 hash is missing' });
  // A file of one piece may leave the pieces out: they would only repeat its hash.
  const pieces = open.pieces ?? (pieceCount(size) === 1 ? [sha256] : []);
  const expected = pieceCount(size);
  if (pieces.length !== expected) {
    throw new Failure('metalink/pieces', { ...facts, expected, found: pieces.length });
  }
  if (expected === 1 && pieces[0] !== sha256) {
    throw new Failure('metalink/pieces', { ...facts, expected: sha256, found: pieces[0]! });
  }
  return { path, size, sha256, pieces, ...(Object.keys(open.others).length > 0 && { others: open.others }) };
}

/**
 * Reads a Metalink 4 document (RFC 5854) with a size, a SHA-256 and SHA-256 pieces of 1 MiB for each file. Elements
 * that RFC 5854 allows and Regressum has no use for are passed over; a document type (and so any entity of its own)
 * is refused.
 * @param file how the text is called in errors
 * @throws Failure `metalink/*` or `path/*`, with file and line, and the entry where one is open
 */
export function parseMetalink(text: string, build: BuildLabel, depot: DepotId, file: string): Manifest {
  const refuse = (what: string, line = 1): never => {
    throw new Failure('metalink/malformed', { file, line, what });
  };
  if (text.length > MAX_LENGTH) refuse('the document is too long');
  const parser = new SaxesParser({ xmlns: true });
  const names = new PathSet();
  const files: ManifestFile[] = [];
  const stack: string[] = [];
  let open: OpenFile | undefined;
  let hashType = '';
  let words = '';

  const attribute = (tag: SaxesTagNS, name: string): string => tag.attributes[name]?.value ?? '';
  const digest = (kind: ChecksumKind = 'sha-256'): string => {
    const hex = words.trim().toLowerCase();
    if (kindOfDigest(hex) !== kind) {
      throw new Failure('digest/malformed', { file, line: parser.line, path: open?.path, found: hex.slice(0, 80) });
    }
    return hex;
  };

  parser.on('error', (error) => refuse(error.message.replace(/^[\d:\s]+/, ''), parser.line));
  parser.on('doctype', () => refuse('a document type is not accepted', parser.line));
  parser.on('opentag', (tag) => {
    words = '';
    stack.push(tag.local);
    const where = stack.join('/');
    if (stack.length === 1 && (tag.local !== 'metalink' || tag.uri !== NAMESPACE)) {
      refuse(`the root is not a metalink element of ${NAMESPACE}`, parser.line);
    }
    if (where === 'metalink/file') {
      open = { path: attribute(tag, 'name'), line: parser.line, others: {} };
      names.add(open.path, { file, line: parser.line });
      if (files.length >= MAX_FILES) refuse(`more than ${MAX_FILES} files`, parser.line);
    } else if (where === 'metalink/file/hash') {
      hashType = attribute(tag, 'type');
    } else if (where === 'metalink/file/pieces') {
      const facts = { file, line: parser.line, path: open?.path };
      if (attribute(tag, 'type') !== 'sha-256' || attribute(tag, 'length') !== String(PIECE_SIZE)) {
        throw new Failure('metalink/unsupported', {
          ...facts,
          expected: `sha-256 pieces of ${PIECE_SIZE} bytes`,
          found: `${attribute(tag, 'type')} pieces of ${attribute(tag, 'length')} bytes`,
        });
      }
      open!.pieces = [];
    }
  });
  parser.on('text', (chunk) => (words += chunk));
  parser.on('closetag', () => {
    const where = stack.join('/');
    stack.pop();
    if (where === 'metalink/file/size') {
      const size = words.trim();
      if (!/^\d{1,15}$/.test(size)) refuse(`"${size.slice(0, 40)}" is no size in bytes`, parser.line);
      open!.size = Number(size);
    } else if (where === 'metalink/file/hash' && hashType === 'sha-256') {
      open!.sha256 = digest();
    } else if (where === 'metalink/file/hash' && isOtherKind(hashType)) {
      open!.others[hashType] = digest(hashType);
    } else if (where === 'metalink/file/pieces/hash') {
      open!.pieces!.push(digest());
    } else if (where === 'metalink/file') {
      files.push(closeFile(open!, file));
      open = undefined;
    }
  });

  try {
    parser.write(text).close();
  } catch (error) {
    if (isFailure(error)) throw error;
    throw new Failure('metalink/malformed', { file, line: parser.line, what: String(error) }, { cause: error });
  }
  return manifestFromFiles(build, depot, files);
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
    const { path, size, sha256, pieces } = fileAt(manifest, i);
    lines.push(
      `  <file name="${escape(path)}">`,
      `    <size>${size}</size>`,
      `    <hash type="sha-256">${sha256}</hash>`,
      ...others.map(({ kind, digests }) => `    <hash type="${kind}">${digests[i]}</hash>`),
      `    <pieces length="${PIECE_SIZE}" type="sha-256">`,
      ...pieces.map((piece) => `      <hash>${piece}</hash>`),
      '    </pieces>',
      `    <url>${escape(url(path))}</url>`,
      '  </file>',
    );
  });
  return [...lines, '</metalink>', ''].join('\n');
}
