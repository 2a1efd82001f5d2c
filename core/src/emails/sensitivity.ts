/** What a sender can say about who should read an email (RFC 4021, section 2.1.55: Sensitivity). */
export const SENSITIVITIES = ['personal', 'private', 'company-confidential'] as const;
export type Sensitivity = (typeof SENSITIVITIES)[number];
