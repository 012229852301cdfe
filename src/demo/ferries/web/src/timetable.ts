const seats = Number(import.meta.env.VITE_SEATS_PER_FERRY);

/** The form with which a passenger chooses a crossing. */
export function timetable(): HTMLFormElement {
  const form = document.createElement('form');
  const season = import.meta.env.VITE_SEASON === 'winter' ? 'Winter' : 'Summer';
  form.innerHTML = `
    <h2>${season} timetable</h2>
    <label>Crossing <select name="crossing"><option>Northpier to Gull Island</option></select></label>
    <label>Passengers <input name="passengers" type="number" min="1" max="${seats}" value="2"></label>
    <button>Book</button>`;
  if (import.meta.env.VITE_TIDE_CHART === 'true') form.append('High water at 11:40');
  return form;
}
