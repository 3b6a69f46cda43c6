import { Logger, WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import draco from 'draco3dgltf'
import { MeshoptDecoder } from 'meshoptimizer'

let loading: Promise<WebIO> | null = null

/** Reads glTF with every extension that there is a decoder for, Draco and meshopt among them; writes it plain. */
export const loadGltfIo = (): Promise<WebIO> => {
  loading ??= (async () => {
    const [decoder] = await Promise.all([draco.createDecoderModule(), MeshoptDecoder.ready])
    return new WebIO()
      .setLogger(new Logger(Logger.Verbosity.SILENT))
      .registerExtensions(ALL_EXTENSIONS)
      .registerDependencies({ 'draco3d.decoder': decoder, 'meshopt.decoder': MeshoptDecoder })
  })()
  return loading
}
