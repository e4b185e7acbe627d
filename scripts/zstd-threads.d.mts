import type { Threads } from './make-source';

export function zstdThreads(): Threads;
