import { expect, test } from 'vitest';
import { catalogue } from '../../src/core/words/catalogue.js';
import { ofCode } from './code.js';
import { ofContracts } from './contract.js';
import { ofHosts } from './hosts.js';
import { ofOutputs } from './outputs.js';
import { ofRepositories } from './repo.js';
import { ofSites } from './sites.js';
import { ofTrials } from './trials.js';
import { ofValues } from './values.js';

test('every code has a situation in which its remedy is followed', () => {
  const all = [ofContracts, ofValues, ofCode, ofRepositories, ofOutputs, ofSites, ofHosts, ofTrials].flat();
  expect([...new Set(all.map(({ code }) => code))].sort()).toEqual(Object.keys(catalogue).sort());
});
