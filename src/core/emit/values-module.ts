/** The specifier under which code imports the values of its bundle by name, where a plugin of Adder gives them. */
export const VALUES_MODULE = 'adder/values';
