import { Refusal } from '../base/refusal';
import { addressKey } from '@fulvet/core';
import type { RulebookInForce } from './rulebookInForce';

/**
 * The comparable form of an address that someone on record is to have.
 *
 * @param whyNotOurs what to say of a colleague's address, behind it
 * @returns a refusal when it is no address, or one of ours
 */
export function outsideAddress(written: string, inForce: RulebookInForce, whyNotOurs: string): string | Refusal {
  const rulebook = inForce.rulebooks[0];
  const parsed = addressKey(written, { tagsTellApart: rulebook?.source.us.tagsTellApart ?? false });
  if (!parsed)
    return new Refusal('unfit', 'bad-input', `${written} is not an address. Nothing was changed.`, { address: 'is not an address' });
  if (rulebook?.isOurs(parsed.key, parsed.domain))
    return new Refusal('unfit', 'bad-input', `${written} is a colleague’s address${whyNotOurs}`, { address: 'is ours' });
  return parsed.key;
}
