import { objectForms, packageCache, processEnv, type Toolchain } from './toolchain.js';

/** Metro as Expo sets it up: names with this prefix are inlined. */
export const EXPO_PREFIX = 'EXPO_PUBLIC_';

export const metro: Toolchain = {
  name: 'metro',
  detect: { packages: ['react-native', 'expo', 'metro'], config: /^metro\.config\.[cm]?[jt]s$/ },
  runs: 'mobile',
  code: ['src', 'app', 'App.js', 'App.tsx', 'index.js'],
  entries: 'usual names',
  // Expo's compiler; measured with version 54.
  reads: [
    {
      ...processEnv,
      forms: ['brackets'],
      formsOfSomeVersions: ['backticks', 'destructuring', 'destructuring in parts', ...objectForms],
    },
  ],
  productionBuild: 'bundle with `--dev false`',
  output: ['dist'],
  sets: ['EXPO_OS', 'EXPO_PUBLIC_PROJECT_ROOT'],
  caches: ['.expo', packageCache],
  uncached: '--clear',
  prefixWith: { package: 'expo', prefix: EXPO_PREFIX },
  programs: { expo: { dev: ['start'], serve: [] }, metro: { dev: ['serve'], serve: [] } },
};
