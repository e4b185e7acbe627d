import {
  binaryContent,
  type Content,
  iniText,
  jsonText,
  programContent,
  tableText,
  textContent,
  xmlText,
} from './content';
import { BUILDS } from './game';
import { seedFor } from './random';
import type { FileLife } from './tree';

/** What a file has at a build, by its place in the order. */
export function contentAt(seed: number, life: FileLife, build: number): Content {
  const own = seedFor(seed, life.name);
  const revision = life.changes.filter((change) => change <= build).length;
  switch (life.kind) {
    case 'table':
      return textContent(tableText(own, life.amount, revision));
    case 'json':
      return textContent(jsonText(own, life.amount, revision));
    case 'ini':
      return textContent(iniText(own, life.amount, revision));
    case 'xml':
      return textContent(xmlText(own, life.amount, revision));
    case 'build-mark':
      return textContent(`${JSON.stringify({ build: BUILDS[build]!.label })}\n`);
    case 'program':
      return programContent(own, life.amount, BUILDS[build]!.label);
    case 'archive':
    case 'plain':
      return binaryContent(own, life.amount, revision, life.kind);
  }
}
