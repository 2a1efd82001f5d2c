export const FOLDER_ROLES = ['inbox', 'sent', 'archive', 'all', 'drafts', 'junk', 'trash', 'other'] as const;
export type FolderRole = (typeof FOLDER_ROLES)[number];

/** A folder as a mail server lists it. */
export interface ListedFolder {
  path: string;
  /** The last part of the path. */
  name: string;
  /** `\Sent` and so on (RFC 6154), or null. */
  specialUse: string | null;
}

const BY_USE: Record<string, FolderRole> = {
  '\\inbox': 'inbox',
  '\\sent': 'sent',
  '\\archive': 'archive',
  '\\all': 'all',
  '\\drafts': 'drafts',
  '\\junk': 'junk',
  '\\trash': 'trash',
};

/** Names that servers and mail programs commonly give, for servers that do not say the use. */
const BY_NAME: readonly [FolderRole, RegExp][] = [
  ['sent', /^(?:sent(?: (?:items|mail|messages))?|gesendet.*|envoy[eé]s|enviados?|inviat[ai]|verzonden.*|skickat|sendt)$/i],
  ['drafts', /^(?:drafts?|entw(?:ü|ue|u)rfe|brouillons|borradores|bozze|concepten|utkast|kladder)$/i],
  ['junk', /^(?:junk(?: (?:e-?mail|mail))?|spam|bulk mail|unerw(?:ü|ue)nscht|ind(?:é|e)sirables)$/i],
  [
    'trash',
    /^(?:trash|deleted(?: (?:items|messages))?|bin|papierkorb|gel(?:ö|oe)scht.*|corbeille|papelera|cestino|prullenbak|papperskorg)$/i,
  ],
  ['archive', /^(?:archives?|archiv|archief|archivio|archivo)$/i],
  ['all', /^all mail$/i],
];

/**
 * Recognises what each folder is for: by what the server says, then by what the provider's preset says of its names, then by
 * common names. Each role but `other` goes to one folder, the first that has the best claim.
 */
export function folderRoles(
  folders: readonly ListedFolder[],
  byPreset: Readonly<Record<string, FolderRole>> = {},
): Map<string, FolderRole> {
  const roles = new Map<string, FolderRole>();
  const taken = new Set<FolderRole>();
  const claim = (find: (folder: ListedFolder) => FolderRole | undefined): void => {
    for (const folder of folders) {
      const role = roles.has(folder.path) ? undefined : find(folder);
      if (!role || taken.has(role)) continue;
      taken.add(role);
      roles.set(folder.path, role);
    }
  };
  claim((folder) => (folder.path.toUpperCase() === 'INBOX' ? 'inbox' : undefined));
  claim((folder) => BY_USE[folder.specialUse?.toLowerCase() ?? '']);
  claim((folder) => byPreset[folder.path] ?? byPreset[folder.name]);
  claim((folder) => BY_NAME.find(([, pattern]) => pattern.test(folder.name))?.[0]);
  for (const folder of folders) if (!roles.has(folder.path)) roles.set(folder.path, 'other');
  return roles;
}

export type MailDirection = 'both' | 'sent' | 'received';

/** Whether a folder is followed unless a person says otherwise: no drafts, junk or bin, and not the double of everything. */
export function isFollowedAtFirst(role: FolderRole, direction: MailDirection): boolean {
  if (role === 'sent') return direction !== 'received';
  if (role === 'inbox' || role === 'archive' || role === 'other') return direction !== 'sent';
  return false;
}
