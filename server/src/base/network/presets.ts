import type { FailureCode, FolderRole } from '@fulvet/core';
import { FAILURE_CODES, FOLDER_ROLES } from '@fulvet/core';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { z } from 'zod';

const endpoint = z.strictObject({
  host: z.string().max(253),
  port: z.number().int().min(1).max(65_535),
  security: z.enum(['tls', 'starttls']),
});

/**
 * What is known of a provider: its servers, how to sign in, what its folders are called, and how to fix things in its own
 * terms. A JSON file in the folder of presets; an installation adds its own.
 */
export const presetSchema = z.strictObject({
  id: z.string().regex(/^[a-z0-9-]{1,40}$/),
  name: z.string().min(1).max(60),
  hosts: z.array(z.string()).describe('Host names by which the preset is recognised.'),
  imap: endpoint,
  smtp: endpoint,
  signIn: z.array(z.enum(['password', 'redirect'])).min(1),
  trust: z.string().optional().describe('A certificate (PEM) to trust beside the public ones.'),
  connections: z.number().int().min(1).default(10).describe('IMAP connections at once, all worker processes together.'),
  redirect: z
    .strictObject({
      authorizeUrl: z.url(),
      tokenUrl: z.url(),
      revokeUrl: z.url().optional(),
      scope: z.string(),
      clientId: z.string(),
      clientSecret: z.string().default(''),
    })
    .optional(),
  folderRoles: z.record(z.string(), z.enum(FOLDER_ROLES)).default({}),
  remedies: z.partialRecord(z.enum(FAILURE_CODES as [FailureCode, ...FailureCode[]]), z.string()).default({}),
});

export type Preset = z.infer<typeof presetSchema>;

/** The presets of an installation, by id. */
export class Presets {
  private readonly byId: ReadonlyMap<string, Preset>;

  constructor(presets: readonly Preset[]) {
    this.byId = new Map(presets.map((preset) => [preset.id, preset]));
  }

  /**
   * Reads the presets of these folders; a later one replaces an earlier one of the same id.
   *
   * @throws with the file's name when one cannot be read
   */
  static load(folders: readonly string[]): Presets {
    return new Presets(
      folders
        .filter((folder) => existsSync(folder))
        .flatMap((folder) =>
          readdirSync(folder)
            .filter((name) => name.endsWith('.json'))
            .sort()
            .map((name) => readPreset(join(folder, name))),
        ),
    );
  }

  all(): Preset[] {
    return [...this.byId.values()];
  }

  get(id: string): Preset {
    return this.byId.get(id) ?? this.general();
  }

  /** The preset that knows this host, else the general one. */
  ofHost(host: string): Preset {
    const key = host.toLowerCase();
    return this.all().find((item) => item.hosts.includes(key)) ?? this.general();
  }

  remedyOf(id: string, code: FailureCode): string {
    return this.get(id).remedies[code] ?? '';
  }

  roles(id: string): Record<string, FolderRole> {
    return this.get(id).folderRoles;
  }

  private general(): Preset {
    const general = this.byId.get('general');
    if (!general) throw new Error('The general preset is missing from the folder of presets.');
    return general;
  }
}

function readPreset(file: string): Preset {
  const parsed = presetSchema.safeParse(JSON.parse(readFileSync(file, 'utf8')));
  if (parsed.success) return parsed.data;
  throw new Error(
    `The preset ${file} cannot be read: ${parsed.error.issues.map((issue) => `${issue.path.join('.')} ${issue.message}`).join('; ')}`,
  );
}
