export function bundle(entry: string, options?: { forNode?: boolean }): Promise<string>;
