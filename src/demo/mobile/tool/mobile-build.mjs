// A small stand-in for a mobile toolchain, which does not run everywhere: it takes the define file as the real one does,
// puts the constants into the compiled code, and packs the app with the files that pubspec.yaml names. A constant without a value
// is its default, or empty, and nobody says so: that too is as the real one does it.
import { readdirSync, readFileSync } from 'node:fs';
import { pack, stringPool } from './pack.mjs';

const option = process.argv.slice(2).find((word) => word.startsWith('--dart-define-from-file='));
const defines = option ? JSON.parse(readFileSync(option.slice(option.indexOf('=') + 1), 'utf8')) : {};

const constant = /(?:String|int|bool)\.fromEnvironment\('(\w+)'(?:, defaultValue: '?([^')]*)'?)?\)/g;
const strings = readdirSync('deckhand/lib').flatMap((name) => {
  const text = readFileSync(`deckhand/lib/${name}`, 'utf8');
  return [...text.matchAll(constant)].map(([, key, otherwise = '']) => String(defines[key] ?? otherwise));
});

const assets = [...readFileSync('deckhand/pubspec.yaml', 'utf8').matchAll(/^ {4}- (\S+)$/gm)].map(([, path]) => path);
await pack('deckhand/build/deckhand.apk', {
  'manifest.json': '{ "package": "example.saltmarsh.deckhand" }\n',
  'resources.arsc': stringPool(['Deckhand', 'Casting off', 'Tide table']),
  // Compiled code keeps its strings one after the other.
  'lib/arm64-v8a/libapp.so': `\x7fELF\0${strings.join('\0')}\0`,
  ...Object.fromEntries(assets.map((path) => [path, readFileSync(`deckhand/${path}`)])),
});
console.log(`built deckhand/build/deckhand.apk, with ${Object.keys(defines).length} constants from the define file`);
