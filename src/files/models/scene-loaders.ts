import { Group, ImageLoader, Mesh, MeshStandardMaterial, type Object3D, Texture, TextureLoader } from 'three'
import { ColladaLoader } from 'three/examples/jsm/loaders/ColladaLoader.js'
import { FBXLoader } from 'three/examples/jsm/loaders/FBXLoader.js'
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js'
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js'
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js'
import { USDLoader } from 'three/examples/jsm/loaders/USDLoader.js'
import { USDComposer } from 'three/examples/jsm/loaders/usd/USDComposer.js'
import { FileError } from '#core/findings/failure'
import { readUsdLight, USD_LIGHTS, type UsdLightType } from '#core/targets/usd/usd-light'
import { decodeText, type LoadedScene, type SceneType } from './loaded-scene'
import { ColladaDomParser } from './tidy-collada'

/** Centimetres are what the format counts in. */
const FBX_UNIT_M = 0.01

const isUsdLight = (type: string): type is UsdLightType => (USD_LIGHTS as readonly string[]).includes(type)

/** Reads a scene; pictures are not loaded, only named. @throws anything on damaged data */
export function loadScene(type: SceneType, bytes: Uint8Array): LoadedScene {
  return withoutBrowser(() => {
    const buffer = bytes.slice().buffer
    switch (type) {
      case 'fbx': {
        const scene = parseFbx(bytes)
        const factor = Number(scene.userData.unitScaleFactor ?? 1)
        scene.scale.multiplyScalar(FBX_UNIT_M * (factor > 0 ? factor : 1))
        return scene
      }
      case 'dae': {
        const parsed = new ColladaLoader().parse(decodeText(bytes), '')
        if (!parsed) throw new Error('no Collada')
        return parsed.scene
      }
      case 'ply': {
        const head = decodeText(bytes.subarray(0, MOST_PLY_HEAD)).split('end_header')[0]
        if (!/^element face [1-9]/m.test(head))
          throw new FileError('unsupported', 'The PLY file holds points and no faces; there is no surface to show.')
        const geometry = new PLYLoader().parse(buffer)
        return new Group().add(new Mesh(geometry, new MeshStandardMaterial()))
      }
      case 'stl': {
        const geometry = new STLLoader().parse(buffer)
        return new Group().add(new Mesh(geometry, new MeshStandardMaterial()))
      }
      case 'usda':
        return new USDLoader().parse(decodeText(bytes), '')
      case 'usdc':
      case 'usdz':
        return new USDLoader().parse(buffer, '')
      default:
        return type satisfies never
    }
  })
}

const MOST_PLY_HEAD = 64 * 1024

const VERTEX_COLORS = 'LayerElementColor'

/** The loader stumbles over some ways to give colours to vertices, which are not kept anyway: then it reads the file without them. */
function parseFbx(bytes: Uint8Array): Group {
  try {
    return new FBXLoader().parse(bytes.slice().buffer, '')
  } catch (error) {
    const copy = Buffer.from(bytes)
    let at = copy.indexOf(VERTEX_COLORS)
    if (at < 0) throw error
    // Under a name of the same length that nobody knows.
    for (; at >= 0; at = copy.indexOf(VERTEX_COLORS, at + 1)) copy.write('X', at)
    return new FBXLoader().parse(new Uint8Array(copy).buffer, '')
  }
}

/**
 * Runs a loader that was made for browsers: pictures are noted by their addresses in place of being fetched, and what it asks of a browser
 * beside that is there for as long as it runs. Loaders parse at once, so nothing else runs meanwhile.
 */
function withoutBrowser(parse: () => Object3D): LoadedScene {
  const embedded = new Map<string, Blob>()
  const kept = {
    texture: TextureLoader.prototype.load,
    image: ImageLoader.prototype.load,
    tga: TGALoader.prototype.load,
    createObjectURL: URL.createObjectURL,
    material: USDComposer.prototype._applyMaterial,
    light: USDComposer.prototype._buildLight,
    reference: USDComposer.prototype._resolveReference,
    log: console.log,
    info: console.info,
    debug: console.debug,
    warn: console.warn,
    error: console.error,
  }
  const named = (url: string): Texture => {
    const texture = new Texture()
    texture.userData.address = url
    return texture
  }
  TextureLoader.prototype.load = named as never
  TGALoader.prototype.load = named as never
  ImageLoader.prototype.load = ((url: string, onLoad?: (image: unknown) => void) => onLoad?.({ address: url })) as never
  USDComposer.prototype._applyMaterial = function (material, path) {
    const stagePath = path.replace(/^<|>$/g, '')
    material.name = stagePath.split('/').pop() ?? ''
    material.userData.stagePath = stagePath
    kept.material.call(this, material, path)
  }
  USDComposer.prototype._buildLight = function (path, type) {
    const light = kept.light.call(this, path, type)
    const attributes = this._getAttributes(path)
    if (light && isUsdLight(type)) light.userData.usdLight = readUsdLight(type, name => attributes[name])
    // Some stand a metre up where nothing is said.
    return light?.position.set(0, 0, 0) && light
  }
  const referred = new WeakMap<USDComposer, Map<string, Object3D | null>>()
  USDComposer.prototype._resolveReference = function (reference, variants) {
    const ofLayer = referred.get(this) ?? new Map<string, Object3D | null>()
    referred.set(this, ofLayer)
    const key = JSON.stringify([reference, variants])
    const known = ofLayer.get(key)
    const made = known === undefined ? kept.reference.call(this, reference, variants) : known
    ofLayer.set(key, made)
    // Each place has nodes of its own, over the same shapes.
    return made?.clone() ?? null
  }
  URL.createObjectURL = blob => {
    const address = `embedded:${embedded.size}`
    embedded.set(address, blob as Blob)
    return address
  }
  // What loaders complain of is told by what comes of it.
  console.log = console.info = console.debug = console.warn = console.error = () => {}
  const browser = globalThis as unknown as Record<string, unknown>
  const names = { window: { innerWidth: 1, innerHeight: 1, URL }, DOMParser: ColladaDomParser }
  const before = Object.fromEntries(Object.keys(names).map(name => [name, browser[name]]))
  Object.assign(browser, names)
  try {
    const scene = parse()
    scene.updateMatrixWorld(true)
    return { scene, embedded }
  } finally {
    for (const [name, value] of Object.entries(before))
      if (value === undefined) delete browser[name]
      else browser[name] = value
    TextureLoader.prototype.load = kept.texture
    ImageLoader.prototype.load = kept.image
    TGALoader.prototype.load = kept.tga
    URL.createObjectURL = kept.createObjectURL
    USDComposer.prototype._applyMaterial = kept.material
    USDComposer.prototype._buildLight = kept.light
    USDComposer.prototype._resolveReference = kept.reference
    console.log = kept.log
    console.info = kept.info
    console.debug = kept.debug
    console.warn = kept.warn
    console.error = kept.error
  }
}
