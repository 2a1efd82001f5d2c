/** A part of the help: what it is about, and its text as Markdown. */
export interface HelpPart {
  title: string;
  text: string;
}

/** The parts of the help: each begins with a heading of the second level. */
export const partsOf = (markdown: string): HelpPart[] =>
  markdown
    .split(/^## /m)
    .slice(1)
    .map((part) => {
      const end = part.indexOf('\n');
      return { title: part.slice(0, end).trim(), text: part.slice(end + 1).trim() };
    });

/** The parts in which every word that is searched for begins a word, those that have it in the title first. */
export function partsWith(parts: readonly HelpPart[], search: string): HelpPart[] {
  const wanted = search.toLowerCase().split(/\s+/).filter(Boolean);
  const has = (text: string): boolean => {
    const words = text.toLowerCase().split(/[^\p{L}\p{N}]+/u);
    return wanted.every((word) => words.some((found) => found.startsWith(word)));
  };
  const inTitle = parts.filter(({ title }) => has(title));
  return [...inTitle, ...parts.filter((part) => !inTitle.includes(part) && has(`${part.title} ${part.text}`))];
}
