export * from './mail';
export * from './mailboxes';
export * from './places';
export * from './records';
export * from './rules';
export * from './runs';
export * from './team';
