import fc from 'fast-check';

/**
 * The cases that properties draw are the same on every machine, so that chance decides of no commit; FULVET_SEED=random draws others,
 * FULVET_SEED=NUMBER repeats those of an earlier run.
 */
const asked = process.env.FULVET_SEED ?? '20261126';
const seed = asked === 'random' ? Math.floor(Math.random() * 2 ** 31) : Number(asked);
if (!Number.isInteger(seed)) throw new Error(`FULVET_SEED is "${asked}": give a whole number, or "random".`);
if (asked === 'random') process.stdout.write(`Properties are drawn with FULVET_SEED=${seed}.\n`);
fc.configureGlobal({ seed });
