import { it } from 'vitest';
import { FOLDER_CONTRACT } from './contract';
import { memoryFolder } from './memory-folder';

it.each(FOLDER_CONTRACT)('a folder in memory $name', ({ hold }) => hold(memoryFolder()));
