import { FERRY_API_URL, NOTICE_BANNER, SEATS_PER_FERRY } from './values';

const desk = document.querySelector('#desk')!;
if (NOTICE_BANNER)
  desk.append(Object.assign(document.createElement('p'), { role: 'note', textContent: NOTICE_BANNER }));
const form = document.createElement('form');
form.action = `${FERRY_API_URL}/bookings`;
form.innerHTML = `
  <label>Passengers <input name="passengers" type="number" min="1" max="${SEATS_PER_FERRY}" value="2"></label>
  <button>Book</button>`;
desk.append(form, `Tickets are booked at ${form.action}`);
