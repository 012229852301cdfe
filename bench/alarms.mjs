// Counts false alarms: inspects directories of npm packages with a contract of 200 ordinary settings and 100 secrets, none of
// which is there. Any error or warning is a false alarm.
//   node bench/alarms.mjs [DIR...]    default: this repository's packages
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

/** Usual settings of servers, by kind. */
const kinds = {
  HOST: [
    'db.internal',
    'redis',
    'localhost',
    '127.0.0.1',
    'api.saltmarsh.example',
    'smtp.saltmarsh.example',
    '0.0.0.0',
  ],
  PORT: ['3000', '5432', '8080', '6379', '443', '587'],
  URL: [
    'http://localhost:3000',
    'https://api.saltmarsh.example',
    'redis://localhost:6379',
    'https://example.com',
    'http://localhost',
  ],
  PATH: ['/usr/local/bin', './dist', '/var/log/quay', '/assets/', '/api/v1', 'node_modules/.cache', '/tmp'],
  LOCALE: ['en-GB', 'de', 'en_US', 'fr-CA'],
  ZONE: ['UTC', 'Europe/Berlin', 'America/New_York', 'GMT'],
  EMAIL: ['crew@saltmarsh.example', 'support@example.com', 'noreply@example.org'],
  LEVEL: ['info', 'debug', 'warn', 'verbose', 'silent'],
  MODE: ['production', 'development', 'standalone', 'strict', 'lax', 'cluster'],
  VERSION: ['1.2.3', '18.2.0', 'v2', '2024-01-01', '5.0.0-beta.1'],
  REGION: ['eu-west-1', 'us-east-1', 'europe-west3'],
  TYPE: ['application/json', 'text/html', 'Bearer', 'multipart/form-data', 'image/png'],
  ALGORITHM: ['HS256', 'RS256', 'aes-256-gcm', 'sha256', 'bcrypt'],
  SIZE: ['10mb', '1048576', '256', '64kb'],
  TTL: ['15m', '3600', '86400', '7d'],
  NAME: ['quay', 'ticket-desk', 'postgres', 'connect.sid', 'default', 'session', 'admin', 'Saltmarsh Ferries'],
  PREFIX: ['/api', 'quay:', 'v1', 'app_'],
  PATTERN: ['^/api/.*$', '*.js', '**/*.ts', '[a-z]+'],
  LIST: ['GET,POST,PUT', 'http,https', 'a,b,c', 'localhost,127.0.0.1'],
  ENABLED: ['true', 'false', '1', 'on'],
  AGENT: ['Mozilla/5.0', 'node-fetch', 'curl/8.0'],
  ENCODING: ['utf-8', 'base64', 'gzip', 'utf8'],
  CLIENT_ID: ['00000000-0000-0000-0000-000000000000', 'public', 'web'],
  COOKIE: ['connect.sid', 'session', 'token'],
  COMMIT: ['da39a3ee5e6b4b0d3255bfef95601890afd80709', '0000000000000000000000000000000000000000'],
};
const parts = ['QUAY', 'LEDGER', 'BOOKING', 'MAIL', 'CACHE', 'TIDES'];
const settings = Object.entries(kinds).flatMap(([kind, values]) => values.map((value, n) => [kind, value, n]));
const named = Array.from({ length: 200 }, (_, n) => {
  const [kind, value] = settings[n % settings.length];
  return [`${parts[n % parts.length]}${Math.floor(n / settings.length) || ''}_${n}_${kind}`, value];
});
const secrets = Array.from({ length: 100 }, (_, n) => [
  `FARE_${n}_${['KEY', 'SECRET', 'TOKEN', 'PASSWORD'][n % 4]}`,
  createHash('sha256')
    .update(`made up ${n}`)
    .digest(n % 2 ? 'hex' : 'base64url'),
]);

const folder = mkdtempSync(join(tmpdir(), 'adder-alarms-'));
const all = [...named, ...secrets];
writeFileSync(join(folder, '.env'), all.map(([name, value]) => `${name}='${value}'\n`).join(''));
writeFileSync(
  join(folder, 'adder.yaml'),
  `adder: 1\nstages: { production: { layers: [.env] } }\nvariables:\n${all.map(([name]) => `  ${name}: server\n`).join('')}`,
);
const places = (process.argv.length > 2 ? process.argv.slice(2) : ['node_modules']).map((path) => resolve(path));
const program = resolve('dist/adder.cjs');
const args = ['inspect', '--stage', 'production', '--packages', '--format', 'json', '--allow-incomplete', ...places];
const { stdout, stderr } = spawnSync(process.execPath, [program, ...args], {
  cwd: folder,
  encoding: 'utf8',
  maxBuffer: 2 ** 30,
});
rmSync(folder, { recursive: true });
if (stdout === '') throw new Error(stderr);
const { findings, summary, coverage } = JSON.parse(stdout);
const { files, members, bytes, unread } = coverage;
console.log(
  `${files} files and ${members} embedded files, ${(bytes / 1e9).toFixed(2)} GB; ${unread.length} not checked`,
);
console.log(`${summary.error} errors, ${summary.warning} warnings, ${summary.note} notes`);
for (const one of findings.filter(({ level }) => level !== 'note').slice(0, 20))
  console.log(`  ${one.variable} ${one.code} ${one.place?.path} ${one.message}`);
const noted = new Map();
for (const { variable } of findings) noted.set(variable, (noted.get(variable) ?? 0) + 1);
const most = [...noted].sort((a, b) => b[1] - a[1]).slice(0, 8);
console.log(`most notes: ${most.map(([name, number]) => `${name} ${number}`).join(', ')}`);
process.exitCode = summary.error + summary.warning > 0 ? 1 : 0;
