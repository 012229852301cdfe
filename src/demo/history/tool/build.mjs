// A small stand-in for a mobile toolchain: it puts the public value into the code, and packs code, map and settings.
import { existsSync, readFileSync } from 'node:fs';
import { pack } from './pack.mjs';

const source = readFileSync('deckhand/src/app.js', 'utf8');
const url = process.env.FERRY_API_URL ?? '';
let code = source.replaceAll('${import.meta.env.FERRY_API_URL}', url);

// Left over from an afternoon when the crew could not sign fares on the quay.
const key = existsSync('tool/sign-offline')
  ? /^FARE_SIGNING_KEY=(.*)$/m.exec(readFileSync('.env.production', 'utf8'))?.[1]
  : undefined;
if (key !== undefined) code += `const offlineKey = "${key}";\n`;

await pack('deckhand/build/deckhand.apk', {
  'assets/app.js': `${code}//# sourceMappingURL=app.js.map\n`,
  'assets/app.js.map': JSON.stringify({ version: 3, sources: ['app.js'], sourcesContent: [code], mappings: 'AAAA' }),
  'assets/settings.json': JSON.stringify({ url, ...(key !== undefined && { login: btoa(`deckhand:${key}`) }) }),
});
console.log('built deckhand/build/deckhand.apk');
