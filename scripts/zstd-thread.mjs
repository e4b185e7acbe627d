import { parentPort } from 'node:worker_threads';
import { compressUsingDict, createCCtx, freeCCtx, init } from '@bokuweb/zstd-wasm';

/* Compresses what it is handed, one after another, each with its own prefix: see zstd-threads.mjs. */
const ready = init();

parentPort.on('message', async ({ bytes, prefix, level }) => {
  await ready;
  const context = createCCtx();
  try {
    const packed = compressUsingDict(context, bytes, prefix, level);
    parentPort.postMessage({ packed }, [packed.buffer]);
  } catch (error) {
    parentPort.postMessage({ problem: String(error) });
  } finally {
    freeCCtx(context);
  }
});
