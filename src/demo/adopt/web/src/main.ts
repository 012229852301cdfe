const { VITE_MAP_TILES_KEY, VITE_ANALYTICS_ID } = import.meta.env;

export const api = import.meta.env.VITE_FERRY_API_URL ?? 'http://localhost:4180';
export const map = `${import.meta.env.VITE_HARBOUR_MAP_URL}?key=${VITE_MAP_TILES_KEY}`;
export const banner = import.meta.env.VITE_NOTICE_BANNER;
export const season = import.meta.env.SEASON;
export const chat = `ws://${import.meta.env.VITE_CHAT_HOST}/${VITE_ANALYTICS_ID}`;
