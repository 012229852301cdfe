import { describe, expect, test } from 'vitest';
import { parseContract } from '../../../src/core/contract/parse.js';
import { noFacts } from '../../../src/core/resolve/env-findings.js';
import { readEnvFileLayer } from '../../../src/core/resolve/layers.js';
import { resolveStage } from '../../../src/core/resolve/resolve.js';
import { concludeTrial } from '../../../src/core/trial/conclude.js';
import type { Arrival, Evidence } from '../../../src/core/trial/evidence.js';
import type { Marker } from '../../../src/core/trial/marker.js';
import { inWords } from '../../support/words.js';

const contractText = `adder: 1
stages:
  development: { layers: [.env] }
  production: { layers: [.env.production] }
bundles: { desk: { toolchain: vite, code: [src], output: [dist] } }
variables:
  API_URL: public
  FARE_KEY: server
  UPLOAD_TOKEN: build
`;

const { contract } = parseContract(contractText, 'adder.yaml', () => true as never);
if (!contract) throw new Error('the contract of this test is invalid');

const layer = readEnvFileLayer('.env.production', '.env.production', Buffer.from('API_URL=x\n'), noFacts);

const marker = (name: string, path?: string): Marker => ({
  text: `t-${name}-${path}`,
  name,
  setAt: path === undefined ? {} : { path, line: 1 },
});

const arrival = (of: Marker, more: Partial<Arrival> = {}): Arrival => ({
  ...{ marker: of, path: 'dist/main.js', inside: [], audience: 'browser', encoding: ['plain'] },
  ...more,
});

/** @param readBy files that read each name, at line 2 */
function conclude(evidence: Partial<Evidence>, readBy: Record<string, string | string[]> = {}, given: string[] = []) {
  const stage = contract?.stages.get('production');
  const bundle = contract?.bundles.get('desk');
  if (!contract || !stage || !bundle) return expect.unreachable();
  const { rows, findings } = concludeTrial({
    ...{ contract, stage, bundle, given: new Set(given) },
    resolution: resolveStage(contract, stage, [layer]),
    evidence: { markers: [], unmarked: [], unmarkedAt: [], arrivals: [], asked: [], hasOutput: true, ...evidence },
    readBy: new Map(
      Object.entries(readBy).map(([name, paths]) => {
        const all = [paths].flat().map((path) => ({ path, line: 2 }));
        return [name, { all, shipped: () => all.find(({ path }) => path !== 'src/server.ts') }];
      }),
    ),
  });
  const said = findings.map(inWords).map(({ code, level, message }) => `${level ?? 'usual'} ${code} ${message}`);
  return { rows, said };
}

describe('what a trial says', () => {
  const key = marker('FARE_KEY');
  const inFile = marker('FARE_KEY', '.env');
  const api = marker('VITE_API_URL', '.env.production');

  test('a name is read by the place that brought its value, or else by the first one', () => {
    const readBy = { VITE_API_URL: ['src/a.ts', 'src/b.ts'] };
    const readByOf = (arrivals: Arrival[]) => conclude({ markers: [api], arrivals }, readBy)?.rows[0]?.readBy;
    expect(readByOf([arrival(api, { origin: { path: 'src/b.ts', line: 2 } })])).toEqual(['src/b.ts:2']);
    expect(readByOf([arrival(api, { origin: { path: 'src/c.ts', line: 2 } })])).toEqual(['src/a.ts:2']);
    expect(readByOf([arrival(api)])).toEqual(['src/a.ts:2']);
  });

  test('a server value in what ships is an error if the build would have it, and else a warning', () => {
    const message = (from: string, more = '') =>
      `trial/lets-out the build puts FARE_KEY, a server-only variable, into dist/main.js; its value came from ${from}${more}`;
    const of = (one: Marker) => conclude({ markers: [one], arrivals: [arrival(one)] }).said;
    expect(of(key)).toEqual([`warning ${message('the environment', ', and `adder with` would not have given it')}`]);
    expect(of(inFile)).toEqual([`error ${message('.env:1')}`]);
  });

  test('a build value that `adder with` gives is an error', () => {
    const token = marker('UPLOAD_TOKEN');
    const { said } = conclude({ markers: [token], arrivals: [arrival(token, { encoding: ['base64'] })] }, {}, [
      'UPLOAD_TOKEN',
    ]);
    expect(said).toEqual([
      'error trial/lets-out the build puts UPLOAD_TOKEN, a build-only variable, into dist/main.js, as base64; its value came from the environment',
    ]);
  });

  test('a server value in server files, caches or the log is none', () => {
    for (const audience of ['server', 'cache', undefined] as const) {
      const { audience: _, ...elsewhere } = arrival(key);
      const one = audience ? arrival(key, { audience }) : elsewhere;
      expect(conclude({ markers: [key], arrivals: [one] }).said).toEqual([]);
    }
  });

  test('a public value that arrives from the layer of the contract is fine', () => {
    expect(conclude({ markers: [api], arrivals: [arrival(api)] }, { VITE_API_URL: 'src/main.ts' }).said).toEqual([]);
  });

  test('one that arrives from another file, or from one of another stage, is not', () => {
    const of = (path: string) => {
      const other = marker('VITE_API_URL', path);
      return conclude({ markers: [other], arrivals: [arrival(other)] }).said;
    };
    expect(of('.env.local')).toEqual([
      'usual trial/other-file the build of production took API_URL from .env.local, and by the contract it comes from .env.production',
    ]);
    expect(of('.env')).toEqual([
      'usual trial/other-file the build of production took API_URL from .env, a layer of development',
    ]);
  });

  test('one that code reads and that arrives nowhere is an error; one that nothing reads is a note', () => {
    expect(conclude({ markers: [api] }, { VITE_API_URL: 'src/main.ts' }).said).toEqual([
      'usual trial/absent API_URL is read here as VITE_API_URL, and its value arrived in no file of the output',
    ]);
    expect(conclude({ markers: [api] }).said).toEqual([
      'usual trial/unused nothing in the build of desk reads API_URL, and its value arrived nowhere',
    ]);
  });

  test('one that only server code reads may arrive nowhere', () => {
    expect(conclude({ markers: [api] }, { VITE_API_URL: 'src/server.ts' }).said).toEqual([]);
  });

  test('a build that wrote nothing shows nothing of what arrives nowhere', () => {
    expect(conclude({ markers: [api], hasOutput: false }, { VITE_API_URL: 'src/main.ts' }).said).toEqual([]);
    expect(conclude({ markers: [api], hasOutput: false }).said).toEqual([]);
  });

  test('nothing is said of a value without a marker', () => {
    const { rows, said } = conclude({ unmarked: ['VITE_API_URL'] }, { VITE_API_URL: 'src/main.ts' });
    expect([rows[0]?.isUnmarked, said]).toEqual([true, []]);
  });

  test('a name that a file sets and no contract has is an error where it arrives', () => {
    const stray = marker('VITE_MAP', '.env');
    expect(conclude({ markers: [stray], arrivals: [arrival(stray)] }).said).toEqual([
      'usual trial/undeclared the build puts VITE_MAP, which is not in the contract, into dist/main.js',
    ]);
    expect(conclude({ markers: [stray] }).said).toEqual([]);
  });

  test('a name that the project asks for and nothing sets is a warning, with similar names', () => {
    const asked = [{ name: 'UPLOAD_TOKN', at: [{ path: 'build.mjs', line: 3 }], inPackages: [] }];
    expect(conclude({ asked }).said).toEqual([
      'usual trial/asked UPLOAD_TOKN is read here, and nothing sets it; similar names: UPLOAD_TOKEN',
    ]);
    expect(conclude({ asked: [{ name: 'UPLOAD_TOKN', at: [], inPackages: ['tool'] }] }).said).toEqual([]);
  });
});
