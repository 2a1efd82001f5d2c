import type { Handlers } from '../base/handler';
import { changeTasks } from './changeTasks';
import { createTask, saveTask } from './keep';
import { listTasks } from './listTasks';

export const agendaRoutes: Pick<Handlers, 'listTasks' | 'createTask' | 'changeTasks' | 'saveTask'> = {
  listTasks: ({ user, query, services }) => listTasks(services, user, query),
  createTask: ({ user, body, services }) => createTask(services, user, body),
  changeTasks: ({ user, body, services }) => changeTasks(services, user, body),
  saveTask: ({ user, params, body, services }) => saveTask(services, user, params.id, body),
};
