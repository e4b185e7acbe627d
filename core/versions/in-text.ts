import { compile } from '#core/patterns';

/** What a text says by a pattern: the first place that it finds. */
export function versionInText(text: string, pattern: string): string | undefined {
  const matcher = compile(pattern).matcher(text);
  const found = matcher.find() ? matcher.group(1)?.trim() : undefined;
  return found ? found.slice(0, 60) : undefined;
}
