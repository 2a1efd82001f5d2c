import { schemaTables, unknownNames } from './lib/sqlNames.mjs';
import { root } from './lib/run.mjs';

process.chdir(root);
const unknown = unknownNames(schemaTables());
for (const line of unknown) process.stderr.write(`${line}: the schema has no such name\n`);
process.exit(unknown.length > 0 ? 1 : 0);
