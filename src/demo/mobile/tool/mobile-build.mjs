// A small stand-in for a mobile toolchain, which does not run everywhere: it takes the define file as the real one does,
// puts the constants into the compiled code, and writes the app's folder. A constant without a value is its default, or
// empty, and nobody says so: that too is as the real one does it.
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';

const option = process.argv.slice(2).find((word) => word.startsWith('--dart-define-from-file='));
const defines = option ? JSON.parse(readFileSync(option.slice(option.indexOf('=') + 1), 'utf8')) : {};

const constant = /(?:String|int|bool)\.fromEnvironment\('(\w+)'(?:, defaultValue: '?([^')]*)'?)?\)/g;
const strings = readdirSync('deckhand/lib').flatMap((name) => {
  const text = readFileSync(`deckhand/lib/${name}`, 'utf8');
  return [...text.matchAll(constant)].map(([, key, otherwise = '']) => String(defines[key] ?? otherwise));
});

// Compiled code keeps its strings one behind the other.
mkdirSync('deckhand/build/app/lib', { recursive: true });
writeFileSync('deckhand/build/app/lib/libapp.so', `\x7fELF\0${strings.join('\0')}\0`);
writeFileSync('deckhand/build/app/manifest.json', '{ "package": "example.saltmarsh.deckhand" }\n');
console.log(`built deckhand/build/app, with ${Object.keys(defines).length} constants from the define file`);
