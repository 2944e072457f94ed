const PARTED = /(\d) (?=(?:[mkµ]?(?:V|A|Ω|W|Hz|s)|mm²?|m|in|ft|%|AWG)(?![\w²]))/g;

/** Words for the eye: a number and its unit never part over two lines. Not for what is typed back. */
export const bound = (words: string) => words.replace(PARTED, "$1\u00a0");
