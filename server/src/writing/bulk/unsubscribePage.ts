import express from 'express';
import { openToAnyone, say } from '../../base/plainPage';
import type { PlainPage } from '../../base/plainPage';
import type { Services } from '../../base/services';
import { isUnsubscribeToken, unsubscribe } from './unsubscribeLink';

const TOKEN = /^[\w-]{43}$/;

/**
 * Where recipients of emails to many unsubscribe: `/u/TOKEN`. A mail program does it at once by a POST (RFC 8058); who opens the link in a browser is asked by
 * a button, since what scans mail opens links, too.
 */
export function unsubscribePage({ database }: Pick<Services, 'database'>): express.Router {
  const router = express.Router();
  router.use(openToAnyone(['allow-forms']));
  router.get('/:token', (req, res, next) => {
    const { token } = req.params;
    (TOKEN.test(token) ? isUnsubscribeToken(database.worker, token) : Promise.resolve(false)).then(
      (isKnown) => (isKnown ? say(res, 200, ASKS) : say(res, 404, UNKNOWN)),
      next,
    );
  });
  router.post('/:token', (req, res, next) => {
    const { token } = req.params;
    // The body is not read: the token says it all.
    (TOKEN.test(token) ? unsubscribe(database.worker, token) : Promise.resolve(false)).then(
      (isDone) => (isDone ? say(res, 200, DONE) : say(res, 404, UNKNOWN)),
      next,
    );
  });
  router.use((_req, res) => say(res, 404, UNKNOWN));
  return router;
}

const ASKS: PlainPage = {
  title: 'Unsubscribe',
  text: 'You get no more emails of this kind. People you write with can still answer you.',
  button: 'Unsubscribe',
};
const DONE: PlainPage = { title: 'You have unsubscribed', text: 'You get no more emails of this kind.' };
const UNKNOWN: PlainPage = { title: 'There is no such link', text: 'Answer the email instead, and say that you want no more of them.' };
