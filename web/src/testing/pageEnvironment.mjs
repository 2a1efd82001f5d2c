import { TestEnvironment } from 'jest-environment-jsdom';

/** A document without a browser, with what browsers and Node.js have in common and jsdom leaves out. */
export default class PageEnvironment extends TestEnvironment {
  async setup() {
    await super.setup();
    Object.assign(this.global, { TextEncoder, TextDecoder, structuredClone, IS_REACT_ACT_ENVIRONMENT: true });
  }
}
