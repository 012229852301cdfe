import { ofSites } from './sites.js';
import { testRemedies } from './situation.js';

testRemedies(ofSites);
