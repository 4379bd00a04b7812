/** A word of the work and what it means. */
export interface Entry {
  word: string;
  meaning: string;
  /** Its mark in the address. */
  slug: string;
}

/** The words of the work in the glossary's own file: the rows of its first table. */
export function entriesOf(file: string): Entry[] {
  const [, table = ""] = file.split(/^## .*$/m);
  return table
    .split("\n")
    .map((line) => line.split("|").map((cell) => cell.trim()))
    .filter((cells) => cells.length === 5 && cells[1] !== "word" && !/^-+$/.test(cells[1] ?? ""))
    .map(([, word = "", meaning = ""]) => ({ word, meaning, slug: slugOf(word) }));
}

export function slugOf(word: string): string {
  return word
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "");
}

/** A text cut at the longest word of the glossary that stands in it; null where none does. */
export function termIn(
  text: string,
  entries: readonly Entry[],
): { before: string; term: string; after: string; entry: Entry } | null {
  const lower = text.toLowerCase();
  const found = entries
    .map((entry) => ({ entry, at: wholeWord(lower, entry.word.toLowerCase()) }))
    .filter(({ at }) => at >= 0)
    .sort((a, b) => b.entry.word.length - a.entry.word.length)[0];
  if (!found) return null;
  const { entry, at } = found;
  const end = at + entry.word.length;
  return { before: text.slice(0, at), term: text.slice(at, end), after: text.slice(end), entry };
}

/** Where a word stands in a text as a whole, in the plural too; -1 where it does not. */
function wholeWord(text: string, word: string): number {
  for (let at = text.indexOf(word); at >= 0; at = text.indexOf(word, at + 1)) {
    const after = text.slice(at + word.length);
    if (!/[\p{L}\d]$/u.test(text.slice(0, at)) && !/^(?!s?(?![\p{L}\d]))[\p{L}\d]/u.test(after)) return at;
  }
  return -1;
}
