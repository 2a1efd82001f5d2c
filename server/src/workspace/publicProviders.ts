import { createRequire } from 'node:module';

/** Names that RFC 2606 reserves for examples; the list has them, nobody's mailbox is there. */
const NOT_PROVIDERS = ['example.com', 'example.net', 'example.org'];

let loaded: Set<string> | null = null;

/** Domains of public mail providers. Source: the npm package `email-providers` (ISC), file `all.json`. */
export function publicProviders(): ReadonlySet<string> {
  if (loaded === null) {
    loaded = new Set(createRequire(import.meta.url)('email-providers/all.json') as string[]);
    for (const domain of NOT_PROVIDERS) loaded.delete(domain);
  }
  return loaded;
}
