import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** Whatever may stand behind `from` or `import`: a name that is no module's does no harm. */
const IMPORTED = /(?:\bfrom|\bimport)\s*\(?\s*['"]([^'"]+)['"]/g;
/** With what only configures. */
const ANY_CODE = /\.(ts|tsx|mjs|js)$/;
const CODE = /\.(ts|tsx|mjs)$/;
/** What concerns every file: what packages there are, and how they are read and judged. */
const CONCERNS_ALL =
  /^(package(-lock)?\.json|tsconfig.*\.json|eslint\.config\.js|\.prettier.*|\.dependency-cruiser\.mjs|app\/routes\.ts)$/;

const paths = (...args) =>
  execFileSync('git', [...args, '-z'], { encoding: 'utf8' })
    .split('\0')
    .filter(Boolean);

/** The file that an import means; nothing for a package. */
function resolved(name, from, isThere) {
  const path = name.startsWith('#core/')
    ? `core/${name.slice('#core/'.length)}`
    : name.startsWith('~/')
      ? `app/${name.slice('~/'.length)}`
      : name.startsWith('.')
        ? join(dirname(from), name).replaceAll('\\', '/')
        : name === '#demo'
          ? 'demo'
          : undefined;
  return path && ['', '.ts', '.tsx', '.mjs', '/index.ts', '/index.tsx'].map((end) => path + end).find(isThere);
}

/** A file that only hands on what others have. */
const isFace = (path) => /(^|\/)index\.tsx?$/.test(path);

/** All code that there is, as far as it is kept. */
export const allCode = () => paths('ls-files').filter((path) => ANY_CODE.test(path) && existsSync(path));

/**
 * What has changed against the last commit, and the files that import it, straight or through a face: what they call may
 * have another type now. Whoever imports those again is not among them, since what is exported here says its type.
 * @returns undefined where what has changed concerns every file
 */
export function affected() {
  const changed = [
    ...paths('diff', '--name-only', '--diff-filter=d', 'HEAD'),
    ...paths('ls-files', '--others', '--exclude-standard'),
  ].filter((path) => existsSync(path));
  const gone = paths('diff', '--name-only', '--diff-filter=D', 'HEAD');
  if ([...changed, ...gone].some((path) => CONCERNS_ALL.test(path))) return undefined;
  const code = new Set([...paths('ls-files'), ...changed].filter((path) => CODE.test(path) && existsSync(path)));
  const isThere = (path) => code.has(path) || gone.includes(path);
  const importers = new Map();
  for (const path of code)
    for (const [, name] of readFileSync(path, 'utf8').matchAll(IMPORTED)) {
      const target = resolved(name, path, isThere);
      if (target) importers.set(target, (importers.get(target) ?? new Set()).add(path));
    }
  const dependents = new Set();
  const visit = (path) => {
    for (const importer of importers.get(path) ?? []) {
      if (dependents.has(importer)) continue;
      dependents.add(importer);
      if (isFace(importer)) visit(importer);
    }
  };
  [...changed, ...gone].forEach(visit);
  return { changed, code: [...new Set([...changed, ...dependents])].filter((path) => code.has(path)) };
}
