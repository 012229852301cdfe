const { VITE_SEASON } = import.meta.env;
const host = 'https://notices.saltmarsh.example';
// const host = 'https://notices.staging.saltmarsh.test';

const api = import.meta.env.VITE_FERRY_API_URL ?? 'http://localhost:4180';
const harbour = 'http://192.168.4.20:4180/harbour';
const mapKey = '{{paymentKey}}';

console.log(import.meta.env, VITE_SEASON, host, api, harbour, mapKey);
