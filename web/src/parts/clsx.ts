/** Class names that hold, joined. */
export function clsx(...names: (string | false | null | undefined)[]): string {
  return names.filter(Boolean).join(' ');
}
