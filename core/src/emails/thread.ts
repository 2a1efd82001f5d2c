/** What threading needs to know of one email. */
export interface ThreadEmail {
  /** Own key of the email, unique. */
  key: string;
  /** Message-ID, or null. Emails that share one are told apart. */
  messageId: string | null;
  /** Ids of its ancestors, oldest first. */
  references: readonly string[];
  /** Milliseconds. */
  at: number;
  isForward: boolean;
  /** Base subject in comparable form. */
  subjectKey: string;
  /** Key of the earlier email that it was joined to by subject (see `subjectFallback`), for one without references. */
  subjectParent: string | null;
}

interface Node {
  id: string;
  email: ThreadEmail | null;
  parent: Node | null;
}

/**
 * Groups emails into conversations, as the REFERENCES algorithm of RFC 5256 section 3 does in its steps 1 to 3.
 *
 * Emails are taken in order of date, then key, so that the result does not depend on the order in which they came in.
 * A parent that was never seen holds its answers together like one that was. An email whose Message-ID another email
 * already has is linked by its references, or where it has none, to that other one: two emails of one conversation. A forwarded email whose subject differs from its parent's starts a
 * conversation of its own, and its answers go with it. An email that was joined to another by subject goes with it.
 *
 * @returns for each email key the key that names its conversation: that of the conversation's first email
 */
export function threadConversations(emails: readonly ThreadEmail[]): Map<string, string> {
  const ordered = [...emails].sort((first, second) => first.at - second.at || (first.key < second.key ? -1 : 1));
  const nodes = new Map<string, Node>();
  const nodeFor = (id: string): Node => {
    let node = nodes.get(id);
    if (!node) {
      node = { id, email: null, parent: null };
      nodes.set(id, node);
    }
    return node;
  };

  const own = ordered.map((email) => {
    const namesake = email.messageId === null ? undefined : nodes.get(`<${email.messageId}>`);
    const shared = email.messageId === null || namesake?.email;
    const node = nodeFor(shared ? `key ${email.key}` : `<${email.messageId}>`);
    node.email = email;
    linkReferences(
      email.references.map((id) => nodeFor(`<${id}>`)),
      node,
    );
    if (shared && namesake && email.references.length === 0 && !leadsTo(namesake, node)) node.parent = namesake;
    return node;
  });
  const byKey = new Map(own.map((node) => [node.email?.key, node]));
  for (const node of own) {
    const joined = node.email?.subjectParent == null ? undefined : byKey.get(node.email.subjectParent);
    if (joined && !node.parent && !leadsTo(joined, node)) node.parent = joined;
  }
  for (const node of own) if (node.email && startsAnew(node.email, node.parent?.email)) node.parent = null;
  return nameConversations(own);
}

/** RFC 5256 section 3, step 1A and 1B. */
function linkReferences(references: readonly Node[], node: Node): void {
  let before: Node | null = null;
  for (const reference of references) {
    if (before && !reference.parent && !leadsTo(before, reference)) reference.parent = before;
    before = reference;
  }
  node.parent = null;
  if (before && !leadsTo(before, node)) node.parent = before;
}

/** True when `target` is `start` or one of its ancestors. */
function leadsTo(start: Node, target: Node): boolean {
  for (let node: Node | null = start; node; node = node.parent) if (node === target) return true;
  return false;
}

function startsAnew(email: ThreadEmail, parent: ThreadEmail | null | undefined): boolean {
  return email.isForward && parent !== null && parent !== undefined && parent.subjectKey !== email.subjectKey;
}

function nameConversations(own: readonly Node[]): Map<string, string> {
  const names = new Map<Node, string>();
  const conversations = new Map<string, string>();
  const roots = new Map<Node, Node>();
  const rootOf = (start: Node): Node => {
    const path: Node[] = [];
    let node = start;
    while (node.parent) {
      const known = roots.get(node);
      if (known) {
        node = known;
        break;
      }
      path.push(node);
      node = node.parent;
    }
    for (const passed of path) roots.set(passed, node);
    return node;
  };
  for (const node of own) {
    if (!node.email) continue;
    const root = rootOf(node);
    const name = names.get(root) ?? node.email.key;
    names.set(root, name);
    conversations.set(node.email.key, name);
  }
  return conversations;
}
