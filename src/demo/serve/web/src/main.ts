import { FERRY_API_URL, NOTICE_BANNER } from './values';

const desk = document.querySelector('#desk')!;
if (NOTICE_BANNER) desk.append(NOTICE_BANNER);
desk.append(`Tickets are booked at ${FERRY_API_URL}/bookings.`);
const { showTimetable } = await import('./timetable');
showTimetable(desk);
