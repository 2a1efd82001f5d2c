export { WAYS } from './ways';
export { sightSql } from './sightSql';
