import { build } from './build.mjs';
import { installPackages, runTool } from './run.mjs';

/* Keeps what the program stores today as a sample in tests/samples: npm run keep-sample. tests/e2e/sample.keep.ts says how. */
installPackages();
build();
process.env.KEEP_SAMPLE = 'yes';
runTool('playwright', 'test', '--project', 'samples');
