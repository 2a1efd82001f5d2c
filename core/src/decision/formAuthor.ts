import type { DecisionFacts } from '../facts/types';
import type { Participant } from '../emails/emailFacts';
import type { SenderCheck } from '../emails/senderCheck';
import type { CompiledRulebook } from '../rulebook/compile';

type Asked = Pick<CompiledRulebook, 'hasFormAddresses' | 'isFormAddress' | 'isOurs'>;

/**
 * Participants of an email with whoever filled in a form as its sender: the administrator named the address in From as one that sends what is written
 * in a form, and Reply-To names someone external. The same list where that is not so.
 */
function withFormAuthor(participants: readonly Participant[], rulebook: Asked): readonly Participant[] {
  if (!rulebook.hasFormAddresses) return participants;
  const form = participants.find(({ role }) => role === 'from');
  if (!form || !rulebook.isFormAddress(form.address)) return participants;
  const author = participants.find(
    ({ role, address, domain }) => role === 'replyTo' && !rulebook.isOurs(address, domain) && !rulebook.isFormAddress(address),
  );
  if (!author) return participants;
  const rest = participants.filter((participant) => participant !== form && participant !== author && participant.role !== 'sender');
  return [{ ...author, role: 'from' }, { ...form, role: 'sender' }, ...rest];
}

/** The facts of an email as they count where it came through such a form. A sender that the receiving server could not confirm proves nothing. */
export function fromForm<F extends Pick<DecisionFacts, 'participants' | 'mailClass' | 'classProof'> & { senderCheck: SenderCheck }>(
  facts: F,
  rulebook: Asked,
): F {
  if (!rulebook.hasFormAddresses || facts.senderCheck === 'failed') return facts;
  const participants = withFormAuthor(facts.participants, rulebook);
  if (participants === facts.participants) return facts;
  // What a machine passes on, a person wrote.
  const isPersons = facts.mailClass === 'notice' || facts.mailClass === 'auto-reply';
  return { ...facts, participants, ...(isPersons ? { mailClass: 'person', classProof: null } : {}) };
}
