/** The specifier of the module of values that Adder's plugin provides. */
export const VALUES_MODULE = 'adder/values';
