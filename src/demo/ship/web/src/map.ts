export function drawMap(key: string, fare: number): void {
  document.title = `${key.length} ${fare}`;
}
