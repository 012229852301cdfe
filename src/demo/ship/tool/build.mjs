// Stands for the builds of both apps, and makes each mistake once. Tokens are put together here, so that no file of the demo has one.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { env } from 'node:process';
import { pack } from './pack.mjs';

const layer = (name) => Object.fromEntries(read(name).map((line) => line.split(/=(.*)/s)));
const { FARE_SIGNING_KEY, LEDGER_DATABASE_URL, SOURCE_MAP_UPLOAD_TOKEN } = layer('.env.production');
const staging = layer('.env.staging');
const token = (...parts) => parts.join('');

const script = [
  // Values of the contract: whole and encoded, a part, a setting, another stage's.
  `const session = { sign: ${JSON.stringify(Buffer.from(FARE_SIGNING_KEY).toString('base64'))} };`,
  `const ledger = { word: ${JSON.stringify(new URL(LEDGER_DATABASE_URL).password)} };`,
  'const region = "saltmarsh-north";',
  `fetch("${staging.FERRY_API_URL}/fares");`,
  // Secrets that no contract declares.
  `const push = "${token('gh', 'p_', 'fK3vX9qLm2ZtW8yRb5NcJ7hDsPa4GeU0oTiE')}";`,
  `const weather = { apiKey: "${token('q7Zt4Lw9', 'XbN2kRv8', 'MsJ5hYp3Gd6C')}" };`,
  // Reads and code that a build should have replaced or left out.
  'fetch("http://localhost:4180/notices");',
  `fetch("${env.VITE_FERRY_API_URL}/tides/" + import.meta.env.VITE_TIDE_STATION);`,
  'function explain(text) { console.warn("Read the guide before you cast off: " + text); }',
  'if (process.env.NODE_ENV !== "production") explain("no timetable");',
  `const debug = { root: ${JSON.stringify(`${process.cwd()}/web/src/main.ts`)}, needs: "SOURCE_MAP_UPLOAD_TOKEN" };`,
  '//# sourceMappingURL=app.js.map',
];
const sources = ['../../src/main.ts', '../../src/server/fares.ts'];
const map = {
  version: 3,
  sources,
  sourcesContent: sources.map((path) => read(path.replace('../../', 'web/')).join('\n')),
  names: [],
  mappings: '',
};
const environment = { PATH: '/usr/bin', HOME: '/home/quay', USER: 'quay', npm_lifecycle_event: 'build', npm_config_user_agent: 'npm' };

write('web/dist/assets/app.js', `${script.join('\n')}\n`);
write('web/dist/assets/app.js.map', JSON.stringify(map));
write('web/dist/assets/config.js', `window.config = ${JSON.stringify(environment)};\n`);
write('web/dist/.vscode/settings.json', '{}\n');
write('web/dist/index.html', '<script type="module" src="assets/app.js"></script>\n');
await pack('deckhand/build/deckhand.apk', {
  'manifest.json': '{ "package": "example.saltmarsh.deckhand" }\n',
  'lib/arm64-v8a/libapp.so': `\x7fELF\0${env.FERRY_API_URL ?? ''}\0${SOURCE_MAP_UPLOAD_TOKEN}\0`,
  'assets/settings.env': read('.env.production').join('\n'),
  'res/raw/upload.jks': Buffer.from([0xfe, 0xed, 0xfe, 0xed, 0, 0, 0, 2]),
});
console.log('built web/dist and deckhand/build/deckhand.apk');

function read(path) {
  return readFileSync(path, 'utf8').trim().split('\n');
}

function write(path, text) {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, text);
}
