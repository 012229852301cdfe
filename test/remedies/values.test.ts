import { testRemedies } from './situation.js';
import { ofValues } from './values.js';

testRemedies(ofValues);
