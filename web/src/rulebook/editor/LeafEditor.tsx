import type { Leaf, ParticipantTest, RecordTest, TextTest } from '@fulvet/core';
import { useAddressLists } from '../queries';
import { Choice } from '../../parts/Choice';
import { RecordPicker } from '../../parts/RecordPicker';
import { CLASS_LABELS } from '../defaultSentences';
import { TeamChoice } from './ScopeEditor';
import { RECORD_FIELDS, TESTS, WHICH } from './leafChoices';
import { OwnFieldLeaf } from './OwnFieldLeaf';
import { Value, Num, Words, Several } from './leafInputs';

/** One fact as a piece of a sentence; its underlined parts are edited in place. */
export function LeafEditor({ leaf, onChange }: { leaf: Leaf; onChange: (leaf: Leaf) => void }) {
  switch (leaf.fact) {
    case 'participant':
      return (
        <>
          <Choice label="Who" value={leaf.which} options={WHICH} onChange={(which) => onChange({ ...leaf, which })} />{' '}
          <Participant test={leaf.test} onChange={(test) => onChange({ ...leaf, test })} />
        </>
      );
    case 'direction':
      return (
        <>
          it is{' '}
          <Several
            label="Direction"
            all={{ received: 'received', sent: 'sent', internal: 'internal' }}
            chosen={leaf.in}
            onChange={(chosen) => onChange({ ...leaf, in: chosen })}
          />
        </>
      );
    case 'mailClass':
      return (
        <>
          it is{' '}
          <Several
            label="Kind of mail"
            all={{
              person: 'a person’s mail',
              newsletter: 'a newsletter',
              notice: 'a notice',
              'auto-reply': 'an automatic reply',
              bounce: 'a bounce',
              calendar: CLASS_LABELS.calendar ?? 'calendar',
            }}
            chosen={leaf.in}
            onChange={(chosen) => onChange({ ...leaf, in: chosen })}
          />
        </>
      );
    case 'sensitivity':
      return (
        <>
          the sender marked it{' '}
          <Several
            label="Sensitivity"
            all={{ personal: 'personal', private: 'private', 'company-confidential': 'company-confidential' }}
            chosen={leaf.in}
            onChange={(chosen) => onChange({ ...leaf, in: chosen })}
          />
        </>
      );
    case 'senderCheck':
      return (
        <>
          the receiving server{' '}
          <Several
            label="Check of the sender"
            all={{ passed: 'confirmed its sender', failed: 'found its sender forged', none: 'did not check its sender' }}
            chosen={leaf.in}
            onChange={(chosen) => onChange({ ...leaf, in: chosen })}
          />
        </>
      );
    case 'subject':
      return (
        <>
          the subject <Text test={leaf.test} onChange={(test) => onChange({ ...leaf, test })} />
        </>
      );
    case 'body':
      return (
        <>
          the text <Text test={leaf.test} onChange={(test) => onChange({ ...leaf, test })} />
        </>
      );
    case 'attachment':
      return <AttachmentLeaf leaf={leaf} onChange={onChange} />;
    case 'conversation':
      return (
        <Choice
          label="Conversation"
          value={leaf.is}
          options={[
            { value: 'first', label: 'it begins a conversation' },
            { value: 'answerToFiled', label: 'it answers filed mail' },
          ]}
          onChange={(is) => onChange({ ...leaf, is })}
        />
      );
    case 'filedUnder':
      return (
        <>
          its conversation is filed under{' '}
          <RecordPicker label="Record" onPick={(record) => onChange({ fact: 'filedUnder', ...record })}>
            <button type="button" className="font-semibold text-spruce underline decoration-dotted decoration-2 underline-offset-4">
              {leaf.name || 'a record'}
            </button>
          </RecordPicker>
        </>
      );
    case 'size':
      return (
        <>
          it has at least{' '}
          <Num
            label="Megabytes"
            value={leaf.atLeast / 1_000_000}
            step={0.1}
            onChange={(value) => onChange({ ...leaf, atLeast: Math.round(value * 1_000_000) })}
          />{' '}
          MB
        </>
      );
    case 'recipients':
      return (
        <>
          it has at least{' '}
          <Num label="Recipients" value={leaf.atLeast} step={1} onChange={(value) => onChange({ ...leaf, atLeast: Math.round(value) })} />{' '}
          recipients
        </>
      );
    case 'folder':
      return (
        <>
          it is in the folder <Words label="Folders" values={leaf.in} onChange={(values) => onChange({ ...leaf, in: values })} />
        </>
      );
    case 'mailbox':
      return (
        <>
          it is in the mailbox <Words label="Mailboxes" mono values={leaf.in} onChange={(values) => onChange({ ...leaf, in: values })} />
        </>
      );
    case 'user':
      return (
        <>
          it is in a mailbox of{' '}
          <Words label="Members’ addresses" mono values={leaf.in} onChange={(values) => onChange({ ...leaf, in: values })} />
        </>
      );
    case 'team':
      return (
        <>
          it is in a mailbox of the team <TeamChoice chosen={leaf.in} onChange={(chosen) => onChange({ ...leaf, in: chosen })} />
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
        label="What of them"
        value={test.is}
        options={TESTS}
        onChange={(is) => {
          const start = TESTS.find((item) => item.value === is)?.start;
          if (start) onChange(start.is === 'inList' ? { is: 'inList', list: all[0]?.id ?? '' } : start);
        }}
      />{' '}
      {(test.is === 'domain' || test.is === 'address') && (
        <Value
          label={test.is === 'domain' ? 'Domain' : 'Address'}
          value={test.value}
          placeholder={test.is === 'domain' ? 'harbour.example' : 'ida@harbour.example'}
          onChange={(value) => onChange({ ...test, value })}
        />
      )}
      {test.is === 'domain' && (
        <>
          {' '}
          <Choice
            label="Reach"
            value={test.exactly ? 'exactly' : 'under'}
            options={[
              { value: 'under', label: 'and its sub-domains' },
              { value: 'exactly', label: 'exactly' },
            ]}
            onChange={(value) => onChange({ ...test, exactly: value === 'exactly' })}
          />
        </>
      )}
      {test.is === 'matches' && (
        <Value label="Pattern" value={test.pattern} placeholder="^no-?reply@" onChange={(pattern) => onChange({ ...test, pattern })} />
      )}
      {test.is === 'inList' &&
        (all.length === 0 ? (
          <span className="text-brick">there is no list yet: create one under Address lists</span>
        ) : (
          <Choice
            label="List"
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
        label="How"
        value={how}
        options={[
          { value: 'contains', label: 'says' },
          { value: 'pattern', label: 'matches the pattern', hint: 'RE2; case does not count. It looks at the first 20,000 characters.' },
        ]}
        onChange={(next) => onChange(next === 'pattern' ? { pattern: 'rma ?\\d+' } : { contains: ['invoice'] })}
      />{' '}
      {'pattern' in test ? (
        <Value label="Pattern" value={test.pattern} placeholder="rma ?\d+" onChange={(pattern) => onChange({ pattern })} />
      ) : (
        <Words label="Words" values={test.contains} onChange={(contains) => onChange({ contains })} />
      )}
    </>
  );
}

function AttachmentLeaf({ leaf, onChange }: { leaf: Extract<Leaf, { fact: 'attachment' }>; onChange: (leaf: Leaf) => void }) {
  const named = 'name' in leaf.test;
  return (
    <>
      <Choice
        label="Attachments"
        value={named ? 'name' : 'any'}
        options={[
          { value: 'any', label: 'it has an attachment' },
          { value: 'name', label: 'an attachment’s name' },
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
        label="Which fact of the records"
        value={test.field}
        options={RECORD_FIELDS}
        onChange={(field) => {
          const start = RECORD_FIELDS.find((recordField) => recordField.value === field)?.start;
          if (start) onChange(start);
        }}
      />{' '}
      {test.field === 'own' && <OwnFieldLeaf test={test} onChange={onChange} />}
      {'in' in test && <Words label="Values" values={test.in} onChange={(values) => onChange({ ...test, in: values })} />}
      {test.field === 'dealAmount' && (
        <Num label="Amount" value={test.atLeast} step={1000} onChange={(atLeast) => onChange({ ...test, atLeast })} />
      )}
    </>
  );
}
