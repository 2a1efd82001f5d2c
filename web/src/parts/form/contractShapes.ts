/** The shapes of the contract, as a part of the application that is loaded when a form needs them. */
export { routes, sayFaultsPlainly } from '@fulvet/contract';
