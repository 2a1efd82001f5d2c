import { Refusal } from '../base/refusal';
import { domainToAscii, domainOf } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';

const WORDS = { address: 'an address such as ida@harbour.example', domain: 'a domain such as harbour.example' };

/**
 * An address or a domain of someone outside, in the form in which they are compared.
 *
 * @param ours what is said behind “X is one of ours”
 * @returns a refusal for what is neither, and for our own
 */
export function outsideValue(kind: 'address' | 'domain', text: string, rulebook: CompiledRulebook, ours: string): string | Refusal {
  const value = kind === 'address' ? rulebook.personKey(text.toLowerCase()) : domainToAscii(text.replace(/^@/, ''));
  const isWhole = kind === 'address' ? /^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(value) : value.includes('.');
  if (!isWhole) return new Refusal('unfit', 'bad-input', `“${text}” is not ${WORDS[kind]}.`, { value: `is not ${kind}` });
  if (rulebook.isOurs(kind === 'address' ? value : `x@${value}`, domainOf(value)))
    return new Refusal('unfit', 'ours', `${value} is one of ours${ours}`, { value: 'is ours' });
  return value;
}
