/** Books a crossing and returns the ticket number. The fare is signed by quay. */
export async function book(order: FormData): Promise<string> {
  const answer = await fetch(`${import.meta.env.VITE_FERRY_API_URL}/bookings`, { method: 'POST', body: order });
  const { ticket } = await answer.json();
  return ticket;
}
