import { fileURLToPath } from 'node:url';
import { reactRouter } from '@react-router/dev/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [reactRouter()],
  resolve: { alias: { '~': fileURLToPath(new URL('./app', import.meta.url)) } },
  worker: { format: 'es' },
  // The tokens are light-dark() pairs; an older target would have them rewritten into a form that knows no scheme.
  build: { target: 'es2023', cssTarget: 'chrome130' },
});
