import { fileURLToPath } from 'node:url';
import { reactRouter } from '@react-router/dev/vite';
import { defineConfig, type Plugin } from 'vite';

/** Puts a thread of the server beside it, in a file of its own: a thread starts from a file. */
const serverThread = (name: string, source: string): Plugin => ({
  name: `server-thread-${name}`,
  apply: (_, { isSsrBuild }) => isSsrBuild === true,
  buildStart() {
    this.emitFile({ type: 'chunk', id: source, fileName: `${name}.js` });
  },
});

/** Reading XML does nothing by being loaded: pages that do not read any go without. */
const XML_WITHOUT = { test: /node_modules\/(saxes|xmlchars)\//, sideEffects: false };

/** Neither does loading the heart or a command: a page loads those of them that it calls. */
const CALLED_ONLY = { test: /\/(core|app\/commands)\/[^?]*\.ts$/, sideEffects: false };

export default defineConfig(({ isSsrBuild }) => ({
  plugins: [
    reactRouter(),
    serverThread('folder-thread', './server/served/folder-thread.ts'),
    serverThread('change-thread', './server/served/change-thread.ts'),
  ],
  resolve: { alias: { '~': fileURLToPath(new URL('./app', import.meta.url)) } },
  // Packages that import folders, which Node.js does not.
  ssr: { noExternal: [/^@atlaskit\//] },
  // What a worker loads is called after that, to be told from what a page loads.
  worker: { format: 'es', rolldownOptions: { output: { chunkFileNames: 'assets/worker-[name]-[hash].js' } } },
  build: {
    // The tokens are light-dark() pairs; an older target would have them rewritten into a form that knows no scheme.
    target: 'es2023',
    cssTarget: 'chrome130',
    rolldownOptions: {
      ...(isSsrBuild && { input: './server/main.ts' }),
      treeshake: { moduleSideEffects: [XML_WITHOUT, CALLED_ONLY] },
    },
  },
}));
