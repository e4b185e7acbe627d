import type { FileState } from '#core/survey';

/** Fillings that tell the states apart without colour; the patterns are drawn by Textures. */
export const STATE_FILLS: Record<FileState, string> = {
  true: 'var(--teal-wash)',
  altered: 'url(#hatch)',
  absent: 'url(#crosses)',
  stray: 'url(#bars)',
  unreadable: 'url(#dots)',
};

export const STATE_WORDS: Record<FileState, string> = {
  true: 'correct',
  altered: 'changed',
  absent: 'missing',
  stray: 'stray',
  unreadable: 'unreadable',
};

export function StateMark({ state }: { state: FileState }) {
  return (
    <svg width="12" height="12" aria-hidden="true" style={{ verticalAlign: '-2px' }}>
      <rect x="0.5" y="0.5" width="11" height="11" fill={STATE_FILLS[state]} stroke="var(--soft)" />
    </svg>
  );
}
