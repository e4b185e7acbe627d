/** Patterns that stand for states besides their colour. Drawn once on the page, used by `fill="url(#…)"`. */
export function Textures() {
  return (
    <svg width="0" height="0" aria-hidden="true" style={{ position: 'absolute' }}>
      <defs>
        <pattern id="hatch" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" fill="var(--ochre-wash)" />
          <rect width="2.4" height="6" fill="var(--ochre-fill)" />
        </pattern>
        <pattern id="dots" width="5" height="5" patternUnits="userSpaceOnUse">
          <rect width="5" height="5" fill="var(--panel)" />
          <circle cx="2.5" cy="2.5" r="1.1" fill="var(--soft)" />
        </pattern>
        <pattern id="crosses" width="8" height="8" patternUnits="userSpaceOnUse">
          <rect width="8" height="8" fill="var(--brick-wash)" />
          <path d="M2 2l4 4M6 2l-4 4" stroke="var(--brick)" strokeWidth="1.4" />
        </pattern>
        <pattern id="bars" width="4" height="4" patternUnits="userSpaceOnUse">
          <rect width="4" height="4" fill="var(--blue-wash)" />
          <rect width="1.6" height="4" fill="var(--blue)" />
        </pattern>
      </defs>
    </svg>
  );
}
