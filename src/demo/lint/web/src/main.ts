import { quote } from './fares/quote';
import './banner';

const api = import.meta.env.VITE_FERRY_API_ULR;
const map = process.env.VITE_HARBOUR_MAP_URL;
const season = import.meta.env.SEASON;

export const desk = { api, map, season, quote };
