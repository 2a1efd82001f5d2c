import type { Call } from './callerOf';

/** An offer is followed up, unless someone answers. */
export async function addSeries(call: Call): Promise<void> {
  const { templates } = await call('listTemplates', { kind: 'template' });
  const idOf = (name: string): number => templates.find((template) => template.name === name)?.id ?? 0;
  const year = new Date().getFullYear();
  const holidays = [
    { day: `${year}-12-25`, name: 'Christmas Day' },
    { day: `${year}-12-26`, name: 'Second Christmas Day' },
    { day: `${year + 1}-01-01`, name: 'New Year' },
  ];
  const { automatic } = await call('getWorkspace');
  await call('putWorkspace', { body: { automatic: { ...automatic, holidays } } });
  await call('createSeries', {
    body: {
      name: 'After an offer',
      scope: 'all',
      steps: [
        { kind: 'email', waitDays: 0, templateId: idOf('Offer sent') },
        { kind: 'email', waitDays: 4, templateId: idOf('Is anything unclear?') },
        { kind: 'task', waitDays: 3, text: 'Call and ask who decides' },
        { kind: 'email', waitDays: 10, templateId: idOf('Is anything unclear?') },
      ],
    },
  });
}
