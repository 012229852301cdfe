/** The version of the JSON shapes. It changes when an existing field changes, not when one is added. */
export const REPORT_VERSION = 1;
