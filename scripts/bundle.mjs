import { fileURLToPath } from 'node:url';
import { build } from 'vite';

const root = fileURLToPath(new URL('..', import.meta.url));

/** Bundles one TypeScript file for the browser, or for Node, into a single module and returns its code; packages that are `external` stay outside. */
export async function bundle(entry, { forNode = false, external = [] } = {}) {
  const [{ output }] = [
    await build({
      root,
      configFile: false,
      logLevel: 'error',
      resolve: { alias: { '~': `${root}app` } },
      build: {
        write: false,
        ssr: forNode && `${root}${entry}`,
        target: 'es2023',
        minify: false,
        rollupOptions: {
          input: `${root}${entry}`,
          preserveEntrySignatures: 'strict',
          output: { format: 'es', codeSplitting: false },
        },
      },
      ...(forNode ? { ssr: { noExternal: true, external } } : {}),
    }),
  ].flat();
  return output.find(({ type, isEntry }) => type === 'chunk' && isEntry).code;
}
