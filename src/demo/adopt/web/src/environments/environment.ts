export const environment = {
  desk: { title: 'Ticket desk (development)', refreshSeconds: 5 },
};
