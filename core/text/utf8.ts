/** Bytes that a text takes in UTF-8; a lone surrogate counts as the three bytes of its replacement. */
export function utf8Length(text: string): number {
  let bytes = text.length;
  for (let i = 0; i < text.length; i++) {
    const unit = text.charCodeAt(i);
    if (unit < 0x80) continue;
    if (unit < 0x800) bytes += 1;
    else if (unit >= 0xd800 && unit < 0xdc00 && (text.charCodeAt(i + 1) & 0xfc00) === 0xdc00) {
      // Four bytes for two units.
      bytes += 2;
      i++;
    } else bytes += 2;
  }
  return bytes;
}
