export * from './adminWork';
export * from './makeDemo';
export * from './plan';
export { fillPost, MAIL_PASSWORD, moveToPorts, UNCONNECTED } from './post';
export { Random } from './random';
export { makeWorld, OWN_DOMAIN, PROVIDER } from './world';
export type { World } from './world';
