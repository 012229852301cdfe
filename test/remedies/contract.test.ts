import { ofContracts } from './contract.js';
import { testRemedies } from './situation.js';

testRemedies(ofContracts);
