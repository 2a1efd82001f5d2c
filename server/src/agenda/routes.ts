import type { Handlers } from '../base/handler';
import { changeTasks } from './changeTasks';
import { createTask, saveTask } from './keep';
import { listTasks, tasksOut } from './listTasks';

export const agendaRoutes: Pick<Handlers, 'listTasks' | 'exportTasks' | 'createTask' | 'changeTasks' | 'saveTask'> = {
  listTasks: ({ user, query, services }) => listTasks(services, user, query),
  exportTasks: async ({ user, services, res }) => {
    const text = await tasksOut(services, user);
    res.set({ 'Content-Type': 'text/calendar; charset=utf-8', 'Content-Disposition': 'attachment; filename="tasks.ics"' });
    res.send(text);
    return undefined;
  },
  createTask: ({ user, body, services }) => createTask(services, user, body),
  changeTasks: ({ user, body, services }) => changeTasks(services, user, body),
  saveTask: ({ user, params, body, services }) => saveTask(services, user, params.id, body),
};
