// Code imports the values of its bundle from here; a plugin of Adder puts its own module in place of this one.
throw new Error('the Adder plugin provides adder/values: add adder/vite, adder/webpack or another plugin to the build');

export {};
