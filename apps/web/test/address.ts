/** Stands in for the address that the bundler gives a file: it is found by itself. */
export default undefined
