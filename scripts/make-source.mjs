import { installPackages } from './run.mjs';

/* Bundles scripts/make-source.ts and runs it: npm run make-source -- --help. */
installPackages();
const { bundle } = await import('./bundle.mjs');
const { zstdThreads } = await import('./zstd-threads.mjs');
const code = await bundle('scripts/make-source.ts', { forNode: true });
const { run } = await import(`data:text/javascript,${encodeURIComponent(code)}`);
process.exitCode = await run(process.argv.slice(2), zstdThreads);
