/** The decoder that glTF asks for; the package has no types of its own. */
declare module 'draco3dgltf' {
  const draco: { createDecoderModule: () => Promise<unknown>; createEncoderModule: () => Promise<unknown> }
  export default draco
}
