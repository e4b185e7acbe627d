import { mkdirSync, writeFileSync } from 'node:fs';
import { bundle } from './bundle.mjs';

/* Writes docs/schemas anew: npm run schemas. A test fails when they are not what the program reads by. */
const code = await bundle('scripts/schemas.ts', { forNode: true });
const { jsonSchemas } = await import(`data:text/javascript,${encodeURIComponent(code)}`);
mkdirSync('docs/schemas', { recursive: true });
for (const [name, text] of Object.entries(jsonSchemas())) writeFileSync(`docs/schemas/${name}`, text);
