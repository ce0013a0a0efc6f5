// Marks that turn the direction of writing around, and characters that are there and not seen: shown as signs.
// What a browser would do with them is ours to say: rows, aliases and other people's questions are not.
const UNSEEN = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u061c\u200b\u200e\u200f\u2028-\u202e\u2060-\u206f\ufeff\ufff9-\ufffb]/g

export function visible(text: string): string {
  return text.replace(UNSEEN, (sign) => `‹U+${sign.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}›`)
}

/** For JSON.parse: every text in it made visible. */
export function visibly(_: string, value: unknown): unknown {
  return typeof value === 'string' ? visible(value) : value
}
