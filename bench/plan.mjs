import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { digits, forgetMost, load, memoryOf, seconds, tell, workFolder } from './kit.mjs';

/*
 * node bench/plan.mjs [FILES]
 * Plans a way back between two builds of FILES (100,000) files, of which a fifth has changed, by the index of a bundle. Prints one line of JSON:
 * seconds of planning, the most memory above what the manifests take, and for comparison the seconds that reading the two manifests takes.
 * Needs Linux, which tells the memory.
 */
const files = Number(process.argv[2] ?? 100_000);
const { setUp, plan } = await load(workFolder('plan'), 'bench/plan-node.ts', { external: ['@bokuweb/zstd-wasm'] });
const { readSeconds, indexBytes, ...made } = await setUp(files);
// What setting up has left behind is no part of it, and neither is the most that it took.
setFlagsFromString('--expose-gc');
for (let i = 0; i < 3; i++) runInNewContext('gc')();
forgetMost('self');
const idle = memoryOf('self');
let told;
const taken = await seconds(async () => (told = await plan({ readSeconds, indexBytes, ...made })));
const peakMB = Math.round((memoryOf('self', 'VmHWM') - idle) / 1e6);
tell({ bench: 'plan', files, seconds: digits(taken), readSeconds: digits(readSeconds), peakMB, indexBytes, ...told });
