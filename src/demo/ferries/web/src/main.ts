import { book } from './checkout';
import { mapTiles } from './map';
import { timetable } from './timetable';
import './style.css';

const desk = document.querySelector('#desk')!;
desk.append(timetable(), mapTiles());
desk.addEventListener('submit', (event) => {
  event.preventDefault();
  void book(new FormData(event.target as HTMLFormElement));
});
