import { Failure } from '#core/failure';
import type { HandedFiles } from '~/folders';

const handed = new Map<string, HandedFiles>();

/** Notes the files that a person handed over for an install. They are known until the page is loaded anew. */
export function handOver(install: string, files: HandedFiles): void {
  handed.set(install, files);
}

/** @throws Failure `folder/gone` when the page was loaded anew since */
export function handedTo(install: string): HandedFiles {
  const files = handed.get(install);
  if (!files) throw new Failure('folder/gone');
  return files;
}

export const isHanded = (install: string): boolean => handed.has(install);
