export function bundle(entry: string, options?: { forNode?: boolean; external?: string[] }): Promise<string>;
