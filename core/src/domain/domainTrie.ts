interface Node<T> {
  children: Map<string, Node<T>> | null;
  covering: T | undefined;
  exact: T | undefined;
}

/**
 * Domains by their labels from the right, each with a value. An entry covers its sub-domains unless it was added as exact;
 * the longest entry wins. Looking a domain up costs its number of labels, whatever the number of entries.
 *
 * @example
 * const trie = new DomainTrie<string>();
 * trie.add('harbour.example', 'rule-1');
 * trie.find('mail.harbour.example'); // 'rule-1'
 */
export class DomainTrie<T> {
  private readonly root: Node<T> = emptyNode();
  private entries = 0;

  get size(): number {
    return this.entries;
  }

  /** Adds an entry; the first one for the same domain and reach stays. */
  add(domain: string, value: T, exactly = false): void {
    let node = this.root;
    const labels = domain.split('.');
    for (let at = labels.length - 1; at >= 0; at -= 1) {
      const label = labels[at] ?? '';
      node.children ??= new Map();
      let next = node.children.get(label);
      if (!next) {
        next = emptyNode();
        node.children.set(label, next);
      }
      node = next;
    }
    if (exactly) node.exact ??= value;
    else node.covering ??= value;
    this.entries += 1;
  }

  /** The value of the longest entry that covers the domain, or undefined. */
  find(domain: string): T | undefined {
    let node: Node<T> | undefined = this.root;
    let best: T | undefined;
    let end = domain.length;
    while (end > 0) {
      const dot = domain.lastIndexOf('.', end - 1);
      node = node.children?.get(domain.slice(dot + 1, end));
      if (!node) return best;
      if (node.covering !== undefined) best = node.covering;
      end = dot;
    }
    return node.exact ?? best;
  }
}

function emptyNode<T>(): Node<T> {
  return { children: null, covering: undefined, exact: undefined };
}

/** Up to how many domains comparing with each is cheaper than looking one up. */
const FEW = 8;

/** Tells whether a domain is one of these or lies below one of them. */
export function coversAny(domains: readonly string[]): (domain: string) => boolean {
  if (domains.length <= FEW) {
    return (domain) => {
      for (const above of domains) if (isAtOrBelow(domain, above)) return true;
      return false;
    };
  }
  const trie = new DomainTrie<true>();
  for (const domain of domains) trie.add(domain, true);
  return (domain) => trie.find(domain) === true;
}

function isAtOrBelow(domain: string, above: string): boolean {
  const more = domain.length - above.length;
  if (more <= 0 || above === '') return domain === above && above !== '';
  return domain.charCodeAt(more - 1) === DOT && domain.endsWith(above);
}

const DOT = 0x2e;
