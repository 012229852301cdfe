import { ofOutputs } from './outputs.js';
import { testRemedies } from './situation.js';

testRemedies(ofOutputs);
