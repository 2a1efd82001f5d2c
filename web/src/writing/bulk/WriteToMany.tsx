import type { Input } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { answersOf } from '../../api/asked';
import { call } from '../../api/call';
import { Button, Field, Trouble } from '../../parts/basics';
import { Modal } from '../../parts/Modal';
import { useNotice } from '../../parts/Notices';
import { Option, Select } from '../../parts/Select';
import { useTemplates } from '../templates/queries';
import { leftOutReasons, writeToMany as words } from './words';

type Order = Omit<Input<'previewBulk'>['body'], 'templateId'>;

/** One email by a template to each person of a list: who gets it, and who is left out and why, is counted first. */
export default function WriteToMany({ order, onClose }: { order: Order; onClose: () => void }) {
  const client = useQueryClient();
  const notice = useNotice();
  const templates = (useTemplates('').data?.templates ?? []).filter(
    ({ kind, state, subject }) => kind === 'template' && state === 'published' && subject !== '',
  );
  const [templateId, setTemplateId] = useState('');
  const body = { ...order, templateId: Number(templateId) };
  const counted = useQuery({
    queryKey: ['previewBulk', body],
    queryFn: () => call('previewBulk', { body }),
    enabled: templateId !== '',
    gcTime: 0,
  });
  const send = useMutation({
    mutationFn: (people: number) => call('startBulk', { body: { ...body, people } }),
    onSuccess: async (_, people) => {
      await client.invalidateQueries(answersOf('listBulk', 'listSeriesRuns'));
      notice(words.begun(people));
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={words.title}>
      <div className="space-y-3">
        <Field label={words.template}>
          <Select value={templateId} onValue={setTemplateId}>
            <Option value="">{words.chooseATemplate}</Option>
            {templates.map(({ id, name, folder, language }) => (
              <Option key={id} value={String(id)}>
                {[folder, name, language].filter(Boolean).join(' · ')}
              </Option>
            ))}
          </Select>
        </Field>
        {counted.isFetching && (
          <p role="status" className="text-muted">
            {words.counting}
          </p>
        )}
        <Trouble error={counted.error ?? send.error} />
        {counted.data && (
          <div>
            <p className="font-medium">{words.willGet(counted.data.people, counted.data.found)}</p>
            {counted.data.leftOut.length > 0 && (
              <ul aria-label={words.leftOut} className="mt-1 text-sm text-muted">
                {counted.data.leftOut.map(({ why, count, names }) => (
                  <li key={why}>
                    {words.reason(count, leftOutReasons[why])}: {names.join(', ')}
                    {count > names.length && ' …'}
                  </li>
                ))}
              </ul>
            )}
            <p className="mt-2 text-sm text-muted">{words.pace(counted.data.perDay)}</p>
            <Button
              kind="main"
              className="mt-3"
              disabled={counted.data.people === 0 || send.isPending || counted.isFetching}
              onClick={() => send.mutate(counted.data.people)}
            >
              {words.send(counted.data.people)}
            </Button>
          </div>
        )}
      </div>
    </Modal>
  );
}
