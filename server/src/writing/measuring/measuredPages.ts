import express from 'express';
import { openToAnyone, say } from '../../base/plainPage';
import type { PlainPage } from '../../base/plainPage';
import type { Services } from '../../base/services';
import type { MemberNetworks } from './memberNetworks';
import { visit, visitBeside } from './visit';

/** A picture of one transparent pixel (GIF 89a). */
const PICTURE = Buffer.from('R0lGODlhAQABAIAAAAAAAP///yH5BAEAAAAALAAAAAABAAEAAAIBRAA7', 'base64');

/** `/o/TOKEN`: the picture of a measured email. It is the same for any token, so that no one learns which there are. */
export function openedPicture(services: Pick<Services, 'database' | 'log'>, networks: MemberNetworks): express.Router {
  const router = express.Router();
  router.use(openToAnyone());
  router.get('/:token', (req, res) => {
    // What is counted never keeps anyone waiting.
    visitBeside(services, networks, 'opened', req.params.token, req);
    res.type('image/gif').send(PICTURE);
  });
  router.use((_req, res) => say(res, 404, UNKNOWN));
  return router;
}

/** `/c/TOKEN`: a link of a measured email, which leads on to where its writer linked. */
export function clickedLink({ database }: Pick<Services, 'database'>, networks: MemberNetworks): express.Router {
  const router = express.Router();
  router.use(openToAnyone());
  router.get('/:token', (req, res, next) => {
    visit(database.worker, networks, 'clicked', req.params.token, req).then(
      (url) => (url === null ? say(res, 404, UNKNOWN) : res.redirect(302, url)),
      next,
    );
  });
  router.use((_req, res) => say(res, 404, UNKNOWN));
  return router;
}

const UNKNOWN: PlainPage = {
  title: 'There is no such link',
  text: 'Check that the whole address was copied, or ask the sender of the email.',
};
