/** The bundler gives the address of a file. */
declare module '*.wasm?url' {
  const address: string
  export default address
}
