import { ensureBuilt } from './lib/build.mjs';
import { ensurePackages } from './lib/install.mjs';
import { fail } from './lib/run.mjs';

ensurePackages()
  .then(() => ensureBuilt())
  .catch(fail);
