import { CASES, KIND_ICONS } from '@fulvet/contract';
import type { OwnKind, OwnKindContent } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useEffect } from 'react';
import { useFieldArray, useWatch } from 'react-hook-form';
import { useNavigate } from 'react-router';
import { call } from '../../api/call';
import { useTeams } from '../../api/queries';
import { Button, Trouble } from '../../parts/basics';
import { clsx } from '../../parts/clsx';
import { Form, FormEnd, TextField, TickField, TicksField } from '../../parts/form/Form';
import { faultsOf } from '../../parts/form/faultsOf';
import type { SentForm } from '../../parts/form/useSentForm';
import { useSentForm } from '../../parts/form/useSentForm';
import { OWN_ICONS } from '../../parts/OwnIcon';
import { OrderedRow } from '../OrderedRow';
import { useSavedSetup } from '../useSavedSetup';
import { ownIcons, ownKindEditor as words } from './words';

const EMPTY: OwnKindContent = {
  ...CASES,
  singular: '',
  plural: '',
  prefix: '',
  icon: 'box',
  states: [
    { name: 'Open', open: true },
    { name: 'Closed', open: false },
  ],
};

const valuesOf = (kind: OwnKindContent) => ({
  ...kind,
  states: kind.states.map(({ name, open }) => ({ name, open, was: name })),
  seenByTeams: kind.seenByTeams.map(String),
});
type Values = ReturnType<typeof valuesOf>;

/** @param isNew its states have no names that they had */
const contentOf = (values: Values, isNew: boolean): OwnKindContent => ({
  ...values,
  states: values.states.map(({ name, open, was }) => (isNew || was === '' || was === name ? { name, open } : { name, open, was })),
  seenByTeams: values.seenByTeams.map(Number),
});

/** What a kind of records that the workspace defines is called, how it is numbered, what is linked to it, and who sees it. @param kind null: a new one */
export default function OwnKindEditor({ kind }: { kind: OwnKind | null }) {
  const go = useNavigate();
  const saved = useSavedSetup(words.saved);
  const begin = useMutation({
    mutationFn: () => call('createOwnKind', { body: CASES }),
    onSuccess: async (setup) => {
      await saved(setup);
      void go(`/record-setup/own?of=${setup.kinds.at(-1)?.key ?? ''}`);
    },
  });
  const remove = useMutation({
    mutationFn: (id: number) => call('removeOwnKind', { id }),
    onSuccess: async (setup) => {
      void go('/record-setup/account');
      await saved(setup);
    },
  });
  const form = useSentForm({
    values: valuesOf(kind ? contentIn(kind) : EMPTY),
    faults: (values: Values) => faultsOf('createOwnKind', contentOf(values, kind === null)),
    send: (values: Values) => {
      const body = contentOf(values, kind === null);
      return kind ? call('editOwnKind', { id: kind.id, body }) : call('createOwnKind', { body });
    },
    onDone: async (setup) => {
      await saved(setup);
      if (!kind) void go(`/record-setup/own?of=${setup.kinds.at(-1)?.key ?? ''}`);
    },
  });
  const { reset } = form.fields;
  // What is saved is what the next change begins with: a state that was renamed has its new name.
  useEffect(() => {
    if (kind) reset(valuesOf(contentIn(kind)));
  }, [kind, reset]);
  const teams = useTeams().data?.teams ?? [];
  return (
    <section aria-label={words.title} className="mb-8 max-w-3xl">
      <h2 className="mb-1 text-lg">{kind ? kind.plural : words.newKind}</h2>
      <p className="mb-3 max-w-prose text-muted">{words.about}</p>
      {!kind && (
        <p className="mb-4 flex flex-wrap items-center gap-3">
          <Button kind="main" disabled={begin.isPending} onClick={() => begin.mutate()}>
            {words.switchOnCases}
          </Button>
          <span className="text-muted">{words.whatCasesAre}</span>
        </p>
      )}
      <Trouble error={begin.error} />
      <Form form={form}>
        <div className="grid gap-3 sm:grid-cols-3">
          <TextField form={form} name="singular" label={words.singular} hint={words.singularHint} />
          <TextField form={form} name="plural" label={words.plural} hint={words.pluralHint} />
          <TextField form={form} name="prefix" label={words.prefix} hint={words.prefixHint} />
        </div>
        <Icons form={form} />
        <States form={form} />
        <div>
          <TickField form={form} name="hasPeople" label={words.hasPeople} />
          <TickField form={form} name="hasAccount" label={words.hasAccount} />
          <TickField form={form} name="hasAddresses" label={words.hasAddresses} />
        </div>
        {teams.length > 0 && (
          <TicksField
            form={form}
            name="seenByTeams"
            label={words.seenByTeams}
            none={words.everyTeam}
            options={teams.map(({ id, name }) => ({ value: String(id), shown: name }))}
          />
        )}
        <FormEnd form={form} label={kind ? words.save : words.define} />
      </Form>
      {kind && (
        <div className="mt-3">
          <Button kind="quiet" disabled={remove.isPending} onClick={() => remove.mutate(kind.id)}>
            {words.remove(kind.singular.toLowerCase())}
          </Button>
          <Trouble error={remove.error} />
        </div>
      )}
    </section>
  );
}

const contentIn = ({ id: _id, key: _key, ...content }: OwnKind): OwnKindContent => content;

function Icons({ form }: { form: SentForm<Values> }) {
  const chosen = useWatch({ control: form.fields.control, name: 'icon' });
  return (
    <fieldset>
      <legend className="mb-1 font-medium">{words.icon}</legend>
      <div className="flex flex-wrap gap-1">
        {KIND_ICONS.map((icon) => {
          const Icon = OWN_ICONS[icon];
          return (
            <label
              key={icon}
              title={ownIcons[icon]}
              className={clsx(
                'flex size-9 cursor-pointer items-center justify-center rounded border focus-within:outline-2',
                chosen === icon ? 'border-spruce bg-sunk text-spruce' : 'border-line text-muted hover:border-muted',
              )}
            >
              <input type="radio" className="sr-only" value={icon} aria-label={ownIcons[icon]} {...form.fields.register('icon')} />
              <Icon size={17} aria-hidden />
            </label>
          );
        })}
      </div>
    </fieldset>
  );
}

function States({ form }: { form: SentForm<Values> }) {
  const { control, register } = form.fields;
  const list = useFieldArray({ control, name: 'states', keyName: 'rowId' });
  const rows = useWatch({ control, name: 'states' });
  return (
    <fieldset>
      <legend className="mb-1 font-medium">{words.states}</legend>
      <p className="mb-2 text-sm text-muted">{words.statesHint}</p>
      <ol className="space-y-1.5">
        {list.fields.map(({ rowId }, at) => (
          <OrderedRow
            key={rowId}
            label={words.nameOfState(at + 1)}
            name={rows[at]?.name ?? ''}
            nameInput={register(`states.${at}.name`)}
            openInput={register(`states.${at}.open`)}
            removing={words.theState}
            onUp={at === 0 ? undefined : () => list.move(at, at - 1)}
            onDown={at === list.fields.length - 1 ? undefined : () => list.move(at, at + 1)}
            onRemove={() => list.remove(at)}
          />
        ))}
      </ol>
      <div className="mt-2">
        <Button onClick={() => list.append({ name: '', open: true, was: '' })}>{words.addState}</Button>
      </div>
    </fieldset>
  );
}
