import { fillFields } from '@fulvet/core';
import { escapedText } from '../cleanHtml';

/** Merge fields of whoever sends. */
export const senderFields = ({ name, address }: { name: string; address: string }): [string, string][] => [
  ['sender.name', name],
  ['sender.firstname', name.split(' ')[0] ?? ''],
  ['sender.email', address],
];

/** A signature with its fields filled. A field that no one knows is left out. */
export function filledSignature(signature: string, sender: { name: string; address: string }): string {
  const { text, empty } = fillFields(signature, new Map(senderFields(sender)), escapedText);
  return empty.length === 0 ? text : fillFields(text, new Map(empty.map((key) => [key.toLowerCase(), ' ']))).text;
}
