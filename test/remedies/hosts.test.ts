import { ofHosts } from './hosts.js';
import { testRemedies } from './situation.js';

testRemedies(ofHosts);
