/** The header by which a browser keeps a file under this name in place of showing it (RFC 6266). */
export const asDownload = (name: string): string =>
  `attachment; filename*=UTF-8''${encodeURIComponent(name.toWellFormed()).replace(/['()*]/g, (char) => `%${char.charCodeAt(0).toString(16)}`)}`;
