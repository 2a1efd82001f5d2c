export * from './openApi';
export * from './base/route';
export * from './routes';
export * from './shapes';
