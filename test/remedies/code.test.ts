import { ofCode } from './code.js';
import { testRemedies } from './situation.js';

testRemedies(ofCode);
