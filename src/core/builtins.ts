/**
 * Modules of Node.js itself that take milliseconds to load and that few calls need: for use inside of functions, where a static
 * import would make every start slower.
 */
export const builtins = {
  get crypto() {
    return process.getBuiltinModule('node:crypto');
  },
  get vm() {
    return process.getBuiltinModule('node:vm');
  },
  get childProcess() {
    return process.getBuiltinModule('node:child_process');
  },
};
