export * from './makeDemo';
export { Random } from './random';
export { makeWorld, OWN_DOMAIN } from './world';
export type { World } from './world';
