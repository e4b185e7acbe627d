import { parentPort } from 'node:worker_threads';
import { compressUsingDict, createCCtx, freeCCtx, init } from '@bokuweb/zstd-wasm';

/* Compresses what it is handed, each with its own prefix: see zstd-threads.mjs. */
const ready = init();

parentPort.on('message', async ({ id, bytes, prefix, level }) => {
  await ready;
  const context = createCCtx();
  try {
    const packed = compressUsingDict(context, bytes, prefix, level);
    parentPort.postMessage({ id, packed }, [packed.buffer]);
  } catch (error) {
    parentPort.postMessage({ id, problem: String(error) });
  } finally {
    freeCCtx(context);
  }
});
