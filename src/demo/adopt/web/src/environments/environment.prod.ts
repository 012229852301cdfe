export const environment = {
  desk: { title: 'Ticket desk', refreshSeconds: 60 },
} as const;
