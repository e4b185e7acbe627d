import { digits, load, median, tell, workFolder } from './kit.mjs';

/*
 * node --expose-gc bench/survey.mjs [FILES [BUILDS [FILES-OF-A-BUILD]]]
 * What Survey computes for a large game: FILES (100,000) held against a manifest, and the smallest distinguishing set over
 * BUILDS (60) of FILES-OF-A-BUILD (40,000) files. Times are given beside the time in which this machine sorts the same
 * number of paths, which is the reference; heap is what was in use at the most. Prints one line of JSON each.
 */
const [files = 100_000, builds = 60, each = 40_000] = process.argv.slice(2).map(Number);
const { makeFolder, holdAgainst, showRows, makeBuilds, layAll, distinguishing } = await load(
  workFolder('survey'),
  'bench/survey-node.ts',
);

const ROUNDS = 3;

/** Seconds of each round and of the reference, in turn; megabytes of heap that the work added at the most. */
function measure(reference, run) {
  const seconds = [];
  const references = [];
  let result;
  let heap = 0;
  for (let i = 0; i < ROUNDS; i++) {
    globalThis.gc?.();
    const before = process.memoryUsage().heapUsed;
    let start = performance.now();
    result = run();
    seconds.push((performance.now() - start) / 1000);
    heap = Math.max(heap, process.memoryUsage().heapUsed - before);
    start = performance.now();
    reference();
    references.push((performance.now() - start) / 1000);
  }
  const times = median(seconds.map((second, i) => second / references[i]));
  return { seconds: digits(median(seconds)), timesReference: digits(times), heapMB: digits(heap / 1e6), result };
}

const { manifest, found } = makeFolder(files);
// In an order that is none, so that the sort has something to do.
const shuffled = manifest.paths
  .map((path, i) => [(i * 7919) % files, path])
  .sort(([a], [b]) => a - b)
  .map(([, path]) => path);
const sortPaths = () => shuffled.toSorted();
const held = measure(sortPaths, () => holdAgainst(manifest, found));
const rows = held.result;
tell({ bench: 'survey', files, what: 'held against a manifest', ...held, result: rows.length });
tell({ bench: 'survey', files, what: 'shown', ...measure(sortPaths, () => showRows(rows)) });
for (const sized of [0.5, 0]) {
  const manifests = makeBuilds(builds, each, sized);
  const facts = { bench: 'survey', builds, files: each, changesThatChangeSizes: sized };
  const laid = measure(sortPaths, () => layAll(manifests));
  console.log(JSON.stringify({ ...facts, what: 'builds laid', ...laid, result: laid.result.size }));
  console.log(
    JSON.stringify({
      ...facts,
      what: 'distinguishing set',
      ...measure(sortPaths, () => distinguishing(laid.result)),
    }),
  );
}
