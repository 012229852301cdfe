/** The map of the islands; the key only works on our own domains. */
export function mapTiles(): HTMLImageElement {
  const image = new Image(640, 400);
  image.src = `https://tiles.saltmarsh.example/islands.png?key=${import.meta.env.VITE_MAP_TILES_KEY}`;
  image.alt = 'The islands and their harbours';
  return image;
}
