import type { RouteId } from '@fulvet/contract';

/** What the contract says is wrong with the body of a route, by path. The contract is loaded when it is asked for the first time. */
export async function faultsOf(route: RouteId, body: unknown): Promise<Record<string, string>> {
  // Without it, the server says what is wrong.
  const contract = await import('./contractShapes').catch(() => null);
  if (contract === null) return {};
  contract.sayFaultsPlainly();
  const shape = (contract.routes[route] as { body?: unknown }).body;
  if (typeof shape !== 'object' || shape === null || !('safeParse' in shape)) return {};
  const read = (shape as Parsed).safeParse(body);
  return read.success ? {} : Object.fromEntries(read.error.issues.map(({ path, message }) => [path.join('.'), message]));
}

interface Parsed {
  safeParse: (body: unknown) => { success: true } | { success: false; error: { issues: { path: PropertyKey[]; message: string }[] } };
}
