// Code imports the values of its bundle from here; a plugin of Adder puts its own module in place of this one.
throw new Error('adder/values is given by the plugin of Adder: add adder/vite, adder/webpack or the like to the build');

export {};
