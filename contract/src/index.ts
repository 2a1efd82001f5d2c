export * from './openApi';
export * from './route';
export * from './routes';
export * from './shapes';
