import { testRemedies } from './situation.js';
import { ofTrials } from './trials.js';

testRemedies(ofTrials);
