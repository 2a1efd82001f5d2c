import type { Leaf, ParticipantTest, RecordTest, TextTest } from '@fulvet/core';
import { useAddressLists } from '../queries';
import { Choice } from '../../parts/Choice';
import { RecordPicker } from '../../parts/RecordPicker';
import { CLASS_LABELS } from '../sentences/defaultSentences';
import { TeamChoice } from './ScopeEditor';
import { RECORD_FIELDS, TESTS, WHICH } from './leafChoices';
import { OwnFieldLeaf } from './OwnFieldLeaf';
import { OwnOpenLeaf } from './OwnOpenLeaf';
import { Value, Num, Words, Several } from './leafInputs';
import { common } from '../../parts/words';
import { filled } from '../../parts/filled';
import { leafEditor as words } from './words';

/** One fact as a piece of a sentence; its underlined parts are edited in place. */
export function LeafEditor({ leaf, onChange }: { leaf: Leaf; onChange: (leaf: Leaf) => void }) {
  switch (leaf.fact) {
    case 'participant':
      return (
        <>
          <Choice label={words.who} value={leaf.which} options={WHICH} onChange={(which) => onChange({ ...leaf, which })} />{' '}
          <Participant test={leaf.test} onChange={(test) => onChange({ ...leaf, test })} />
        </>
      );
    case 'direction':
      return filled(words.itIs, {
        direction: (
          <Several
            label={common.direction}
            all={{ received: 'received', sent: 'sent', internal: 'internal' }}
            chosen={leaf.in}
            onChange={(chosen) => onChange({ ...leaf, in: chosen })}
          />
        ),
      });
    case 'mailClass':
      return filled(words.itIsOfKind, {
        kindOf: (
          <Several
            label={words.kindOfMail}
            all={{
              person: words.aPersonsMail,
              newsletter: words.aNewsletter,
              notice: words.aNotice,
              'auto-reply': words.anAutomaticReply,
              bounce: words.aBounce,
              calendar: CLASS_LABELS.calendar ?? 'calendar',
              event: words.anEvent,
            }}
            chosen={leaf.in}
            onChange={(chosen) => onChange({ ...leaf, in: chosen })}
          />
        ),
      });
    case 'sensitivity':
      return filled(words.theSenderMarkedIt, {
        sensitivity: (
          <Several
            label={words.sensitivity}
            all={{ personal: 'personal', private: 'private', 'company-confidential': 'company-confidential' }}
            chosen={leaf.in}
            onChange={(chosen) => onChange({ ...leaf, in: chosen })}
          />
        ),
      });
    case 'senderCheck':
      return filled(words.theReceivingServer, {
        checkOf: (
          <Several
            label={words.checkOfTheSender}
            all={{ passed: words.confirmedItsSender, failed: words.foundItsSenderForged, none: words.didNotCheckIts }}
            chosen={leaf.in}
            onChange={(chosen) => onChange({ ...leaf, in: chosen })}
          />
        ),
      });
    case 'subject':
      return (
        <>
          {words.theSubject} <Text test={leaf.test} onChange={(test) => onChange({ ...leaf, test })} />
        </>
      );
    case 'body':
      return (
        <>
          {words.theText} <Text test={leaf.test} onChange={(test) => onChange({ ...leaf, test })} />
        </>
      );
    case 'attachment':
      return <AttachmentLeaf leaf={leaf} onChange={onChange} />;
    case 'conversation':
      return (
        <Choice
          label={words.conversation}
          value={leaf.is}
          options={[
            { value: 'first', label: words.itBeginsAConversation },
            { value: 'answerToFiled', label: words.itAnswersFiledMail },
          ]}
          onChange={(is) => onChange({ ...leaf, is })}
        />
      );
    case 'filedUnder':
      return filled(words.itsConversationIsFiled, {
        leafName: (
          <RecordPicker label={words.record} onPick={(record) => onChange({ fact: 'filedUnder', ...record })}>
            <button type="button" className="font-semibold text-spruce underline decoration-dotted decoration-2 underline-offset-4">
              {leaf.name || words.aRecord}
            </button>
          </RecordPicker>
        ),
      });
    case 'size':
      return filled(words.itHasAtLeast, {
        megabytes: (
          <Num
            label={words.megabytes}
            value={leaf.atLeast / 1_000_000}
            step={0.1}
            onChange={(value) => onChange({ ...leaf, atLeast: Math.round(value * 1_000_000) })}
          />
        ),
      });
    case 'recipients':
      return filled(words.itHasAtLeastRecipients, {
        recipients: (
          <Num
            label={words.recipients}
            value={leaf.atLeast}
            step={1}
            onChange={(value) => onChange({ ...leaf, atLeast: Math.round(value) })}
          />
        ),
      });
    case 'folder':
      return filled(words.itIsInThe, {
        folders: <Words label={common.folders} values={leaf.in} onChange={(values) => onChange({ ...leaf, in: values })} />,
      });
    case 'mailbox':
      return filled(words.itIsInTheMailbox, {
        mailboxes: <Words label={common.mailboxes} mono values={leaf.in} onChange={(values) => onChange({ ...leaf, in: values })} />,
      });
    case 'user':
      return filled(words.itIsInA, {
        membersAddresses: (
          <Words label={words.membersAddresses} mono values={leaf.in} onChange={(values) => onChange({ ...leaf, in: values })} />
        ),
      });
    case 'team':
      return (
        <>
          {words.itIsInAMailbox} <TeamChoice chosen={leaf.in} onChange={(chosen) => onChange({ ...leaf, in: chosen })} />
        </>
      );
    case 'record':
      return <RecordLeaf test={leaf.test} onChange={(test) => onChange({ ...leaf, test })} />;
  }
}

function Participant({ test, onChange }: { test: ParticipantTest; onChange: (test: ParticipantTest) => void }) {
  const lists = useAddressLists();
  const all = lists.data?.lists ?? [];
  return (
    <>
      <Choice
        label={words.whatOfThem}
        value={test.is}
        options={TESTS}
        onChange={(is) => {
          const start = TESTS.find((item) => item.value === is)?.start;
          if (start) onChange(start.is === 'inList' ? { is: 'inList', list: all[0]?.id ?? '' } : start);
        }}
      />{' '}
      {(test.is === 'domain' || test.is === 'address') && (
        <Value
          label={test.is === 'domain' ? words.domain : common.address}
          value={test.value}
          placeholder={test.is === 'domain' ? words.harbourExample : words.idaHarbourExample}
          onChange={(value) => onChange({ ...test, value })}
        />
      )}
      {test.is === 'domain' && (
        <>
          {' '}
          <Choice
            label={words.reach}
            value={test.exactly ? 'exactly' : 'under'}
            options={[
              { value: 'under', label: words.andItsSubDomains },
              { value: 'exactly', label: words.exactly },
            ]}
            onChange={(value) => onChange({ ...test, exactly: value === 'exactly' })}
          />
        </>
      )}
      {test.is === 'matches' && (
        <Value
          label={words.pattern}
          value={test.pattern}
          placeholder="^no-?reply@"
          onChange={(pattern) => onChange({ ...test, pattern })}
        />
      )}
      {test.is === 'inList' &&
        (all.length === 0 ? (
          <span className="text-brick">{words.thereIsNoList}</span>
        ) : (
          <Choice
            label={words.list}
            value={test.list}
            options={all.map((item) => ({ value: item.id, label: item.name }))}
            onChange={(list) => onChange({ is: 'inList', list })}
          />
        ))}
    </>
  );
}

function Text({ test, onChange }: { test: TextTest; onChange: (test: TextTest) => void }) {
  const how = 'pattern' in test ? 'pattern' : 'contains';
  return (
    <>
      <Choice
        label={words.how}
        value={how}
        options={[
          { value: 'contains', label: words.says },
          { value: 'pattern', label: words.matchesThePattern, hint: words.re2CaseDoesNot },
        ]}
        onChange={(next) => onChange(next === 'pattern' ? { pattern: 'rma ?\\d+' } : { contains: ['invoice'] })}
      />{' '}
      {'pattern' in test ? (
        <Value label={words.pattern} value={test.pattern} placeholder={words.rmaD} onChange={(pattern) => onChange({ pattern })} />
      ) : (
        <Words label={common.words} values={test.contains} onChange={(contains) => onChange({ contains })} />
      )}
    </>
  );
}

function AttachmentLeaf({ leaf, onChange }: { leaf: Extract<Leaf, { fact: 'attachment' }>; onChange: (leaf: Leaf) => void }) {
  const named = 'name' in leaf.test;
  return (
    <>
      <Choice
        label={words.attachments}
        value={named ? 'name' : 'any'}
        options={[
          { value: 'any', label: words.itHasAnAttachment },
          { value: 'name', label: words.anAttachmentsName },
        ]}
        onChange={(next) => onChange({ fact: 'attachment', test: next === 'any' ? { any: true } : { name: { contains: ['.pdf'] } } })}
      />{' '}
      {'name' in leaf.test && <Text test={leaf.test.name} onChange={(name) => onChange({ fact: 'attachment', test: { name } })} />}
    </>
  );
}

function RecordLeaf({ test, onChange }: { test: RecordTest; onChange: (test: RecordTest) => void }) {
  return (
    <>
      <Choice
        label={words.whichFactOfThe}
        value={test.field}
        options={RECORD_FIELDS}
        onChange={(field) => {
          const start = RECORD_FIELDS.find((recordField) => recordField.value === field)?.start;
          if (start) onChange(start);
        }}
      />{' '}
      {test.field === 'ownOpen' && <OwnOpenLeaf test={test} onChange={onChange} />}
      {test.field === 'own' && <OwnFieldLeaf test={test} onChange={onChange} />}
      {'in' in test && <Words label={words.values} values={test.in} onChange={(values) => onChange({ ...test, in: values })} />}
      {test.field === 'dealAmount' && (
        <Num label={common.amount} value={test.atLeast} step={1000} onChange={(atLeast) => onChange({ ...test, atLeast })} />
      )}
    </>
  );
}
