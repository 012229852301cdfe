import { drawMap } from './map.js';
import { fareOf } from './server/fares.js';

fetch(`${import.meta.env.VITE_FERRY_API_URL}/tides/${import.meta.env.VITE_TIDE_STATION}`);
drawMap(import.meta.env.VITE_MAP_TILES_KEY, fareOf(48));
