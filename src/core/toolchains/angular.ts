import { angularApplications } from './angular-workspace.js';
import { defined, type Toolchain } from './toolchain.js';

export const angular: Toolchain = {
  name: 'angular',
  detect: { packages: ['@angular/core'], config: /^angular\.json$/ },
  runs: 'browser',
  code: ['src'],
  entries: 'usual names',
  reads: [defined],
  productionBuild: 'run `ng build --configuration production`',
  copies: ['public', 'src/assets'],
  output: ['dist'],
  serverOutput: ['dist/server'],
  caches: ['.angular/cache'],
  workspace: {
    file: 'angular.json',
    applications: angularApplications,
    command: { builds: /\bng\s+(b|build)\b/, configuration: ['--configuration', '-c'] },
  },
  programs: { ng: { dev: ['serve'], serve: [] } },
};
