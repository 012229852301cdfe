import { testBroken } from '../support/broken-calls.js';

testBroken(1);
