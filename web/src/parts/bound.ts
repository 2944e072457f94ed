const PARTED = /(\d) (?=(?:[mkµ]?(?:V|A|Ω|W|Hz|s)|mm²?|min|m|in|ft|%|AWG)(?![\w²]))/g;

/** Words for the eye: a number and its unit never part over two lines. Not for what is typed back. */
export function bound(words: string): string;
export function bound(words: string | null | undefined): string | undefined;
export function bound(words: string | null | undefined) {
  return words?.replace(PARTED, "$1\u00a0");
}
