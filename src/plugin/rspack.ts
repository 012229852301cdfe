import { adder } from './unplugin.js';

export type { AdderOptions } from './session.js';

export default adder.rspack;
