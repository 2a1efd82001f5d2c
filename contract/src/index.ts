export * from './client';
export * from './openApi';
export * from './base/plainFaults';
export * from './base/route';
export * from './routes';
export * from './shapes';
