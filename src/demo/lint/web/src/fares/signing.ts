// Moved here from quay "for a moment".
export const signed = (pier: string, text: string) => `${pier} ${text} ${import.meta.env.FARE_SIGNING_KEY}`;
