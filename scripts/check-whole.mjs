import { allCode } from './affected.mjs';
import { holdsIn } from './types-and-rules.mjs';

/* Types and rules of all code. What is wrong is printed, and ends it with 1. */
const code = allCode();
if (!(await holdsIn(code, code))) process.exit(1);
