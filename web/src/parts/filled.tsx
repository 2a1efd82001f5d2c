import { Fragment } from 'react';
import type { ReactNode } from 'react';

/** The names of the places in a text: `'Of {emails}, {changed} would change'` has `emails` and `changed`. */
type PlacesOf<Text extends string> = Text extends `${string}{${infer Place}}${infer Rest}` ? Place | PlacesOf<Rest> : never;

/** A text with its places filled: each `{name}` becomes the element given for that name. A text keeps its word order in one string. */
export function filled<Text extends string>(text: Text, places: { readonly [Place in PlacesOf<Text>]: ReactNode }): ReactNode {
  const byName = places as Readonly<Record<string, ReactNode>>;
  return text.split(/\{(\w+)\}/).map((piece, index) => <Fragment key={index}>{index % 2 === 1 ? byName[piece] : piece}</Fragment>);
}
