import { ofRepositories } from './repo.js';
import { testRemedies } from './situation.js';

testRemedies(ofRepositories);
