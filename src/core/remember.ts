/**
 * Keeps what was worked out from the last few texts: the pages of a site share their stylesheets and scripts, and
 * reading one costs more than all the rest of an examination. The value must not be changed by anybody.
 * @param most how many results are kept
 * @param shortest characters of a text from which looking up pays; what is shorter is worked out each time
 */
export function rememberByText<T>(compute: (text: string) => T, most = 24, shortest = 2000): (text: string) => T {
  const kept = new Map<string, T>();
  return (text) => {
    if (text.length < shortest) return compute(text);
    const known = kept.get(text);
    if (known !== undefined) {
      kept.delete(text);
      kept.set(text, known);
      return known;
    }
    const value = compute(text);
    kept.set(text, value);
    if (kept.size > most) kept.delete(kept.keys().next().value as string);
    return value;
  };
}
