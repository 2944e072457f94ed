/** What the browser keeps for this bench between visits. */
export const kept = (key: string) => {
  try {
    return localStorage.getItem(`copper.${key}`);
  } catch {
    return null;
  }
};

export const keep = (key: string, value: string) => {
  try {
    localStorage.setItem(`copper.${key}`, value);
  } catch {
    // A browser that keeps nothing still works; it forgets the theme.
  }
};
