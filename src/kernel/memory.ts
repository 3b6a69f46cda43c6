/**
 * What stands where in the kernel's memory, below the tree that traverse.ts describes. Addresses and offsets in bytes, numbers f64 unless
 * said otherwise. core/render/integrator/kernel-scene.ts writes all of it; nothing here is allocated.
 */

// Written by a traced sample, for the host to read.
export const RADIANCE: usize = 4096
/** Base colour 3, shading normal 3, distance. */
export const FEATURE: usize = 4120
/** i32. */
export const FIRST_MATERIAL: usize = 4176
export const RAYS: usize = 4184
export const CLAMPED: usize = 4192

// Colours that the surface at hand is worked with, three numbers each.
export const VALUE: usize = 4224
export const OVER: usize = 4272
export const F0: usize = 4296
export const EDGE: usize = 4320
export const SPECULAR: usize = 4344
export const ALBEDO: usize = 4368
export const METAL_MULTIPLE: usize = 4392
export const FILM_RATIO: usize = 4416
export const SHINE: usize = 4440
export const KEPT_OUT: usize = 4464
export const KEPT_MEAN: usize = 4488
export const COAT_TONE: usize = 4512
export const FILM: usize = 4536
export const HALF: usize = 4560
export const TEXEL: usize = 4584
export const LIGHT: usize = 4616
export const EMISSION: usize = 4640
export const THROUGH: usize = 4664
export const TINT: usize = 4688
export const FUZZ: usize = 4712
export const COAT: usize = 4736
export const SERIES: usize = 4760
export const BASE: usize = 4832
export const BARE: usize = 4856

/** What a path of one wavelength counts for by colour, see dispersion.ts. */
export const HUE: usize = 4968
/** Colour of light from beneath. */
export const BENEATH: usize = 4992

/** Corners and normals of a placed triangle, 18 f32. */
export const PLACED: usize = 5120
/** What a pixel's samples add up to. */
export const SUMS: usize = 4880

/** What of a ray's light gets through what is clear, by colour. */
export const TINT_THROUGH: usize = 5312
/** And what the media on its way take off, as logarithms. */
export const ABSORBED: usize = 5336
/** Surfaces of what is clear that a ray crosses, see traverse.ts. */
export const CROSSINGS: usize = 5888
/** Four light samples, see first-light.ts. */
export const FOUR: usize = 5376

// Tables that never change.
/** 257. */
export const FILTER: usize = 9728
/** Albedo tables of dielectrics by hundredths of their index, u32 × 512 each; 0 where none has been asked for. */
export const REFLECTED_TABLES: usize = 16384
export const OUTSIDE_TABLES: usize = 18432
export const INSIDE_TABLES: usize = 20480

/** A material: its parameters in the order of OpenPbrParameters, colours as three; then u32 unless said otherwise. */
export namespace Material {
  // @ts-ignore: decorator
  @inline export const COLORS: usize = 512
  // @ts-ignore: decorator
  @inline export const SCALARS: usize = 516
  // @ts-ignore: decorator
  @inline export const NORMAL: usize = 520
  // @ts-ignore: decorator
  @inline export const HANDEDNESS: usize = 524
  // @ts-ignore: decorator
  @inline export const HEIGHT: usize = 528
  // @ts-ignore: decorator
  @inline export const HEIGHT_CHANNEL: usize = 532
  // @ts-ignore: decorator
  @inline export const OPACITY: usize = 536
  // @ts-ignore: decorator
  @inline export const OPACITY_CHANNEL: usize = 540
  /** Whether a map of light is tinted by the constant; whether a leaf lets through what its only picture shows. */
  // @ts-ignore: decorator
  @inline export const TINTS_EMISSION: usize = 544
  // @ts-ignore: decorator
  @inline export const TINTS_THROUGH: usize = 548
  /** f64: slope of a height map along u and v, for each unit of height over a repeat. */
  // @ts-ignore: decorator
  @inline export const SLOPE_U: usize = 560
  // @ts-ignore: decorator
  @inline export const SLOPE_V: usize = 568
  /** Texture reads, first those of colours: offset of the parameter, texture, channel, inverted. */
  // @ts-ignore: decorator
  @inline export const READS: usize = 608
  // @ts-ignore: decorator
  @inline export const READ_BYTES: usize = 16
  /** The parameters once more, over which its textures are read. */
  // @ts-ignore: decorator
  @inline export const LIVE: usize = 1280
}

/** Offsets of parameters. */
export namespace P {
  // @ts-ignore: decorator
  @inline export const BASE_WEIGHT: usize = 0
  // @ts-ignore: decorator
  @inline export const BASE_COLOR: usize = 8
  // @ts-ignore: decorator
  @inline export const DIFFUSE_ROUGHNESS: usize = 32
  // @ts-ignore: decorator
  @inline export const METALNESS: usize = 40
  // @ts-ignore: decorator
  @inline export const SPECULAR_WEIGHT: usize = 48
  // @ts-ignore: decorator
  @inline export const SPECULAR_COLOR: usize = 56
  // @ts-ignore: decorator
  @inline export const ROUGHNESS: usize = 80
  // @ts-ignore: decorator
  @inline export const ANISOTROPY: usize = 88
  // @ts-ignore: decorator
  @inline export const IOR: usize = 96
  // @ts-ignore: decorator
  @inline export const TRANSMISSION_WEIGHT: usize = 104
  // @ts-ignore: decorator
  @inline export const TRANSMISSION_COLOR: usize = 112
  // @ts-ignore: decorator
  @inline export const TRANSMISSION_DEPTH: usize = 136
  // @ts-ignore: decorator
  @inline export const SUBSURFACE_WEIGHT: usize = 144
  // @ts-ignore: decorator
  @inline export const SUBSURFACE_COLOR: usize = 152
  // @ts-ignore: decorator
  @inline export const COAT_WEIGHT: usize = 176
  // @ts-ignore: decorator
  @inline export const COAT_COLOR: usize = 184
  // @ts-ignore: decorator
  @inline export const COAT_ROUGHNESS: usize = 208
  // @ts-ignore: decorator
  @inline export const COAT_IOR: usize = 216
  // @ts-ignore: decorator
  @inline export const COAT_DARKENING: usize = 224
  // @ts-ignore: decorator
  @inline export const FUZZ_WEIGHT: usize = 232
  // @ts-ignore: decorator
  @inline export const FUZZ_COLOR: usize = 240
  // @ts-ignore: decorator
  @inline export const FUZZ_ROUGHNESS: usize = 264
  // @ts-ignore: decorator
  @inline export const FILM_WEIGHT: usize = 272
  // @ts-ignore: decorator
  @inline export const FILM_THICKNESS: usize = 280
  // @ts-ignore: decorator
  @inline export const FILM_IOR: usize = 288
  // @ts-ignore: decorator
  @inline export const EMISSION_LUMINANCE: usize = 296
  // @ts-ignore: decorator
  @inline export const EMISSION_COLOR: usize = 304
  // @ts-ignore: decorator
  @inline export const OPACITY: usize = 328
  // @ts-ignore: decorator
  @inline export const THIN_WALLED: usize = 336
  // @ts-ignore: decorator
  @inline export const TANGENT_ROTATION: usize = 344
  // @ts-ignore: decorator
  @inline export const SUBSURFACE_RADIUS: usize = 352
  // @ts-ignore: decorator
  @inline export const SUBSURFACE_RADIUS_SCALE: usize = 360
  // @ts-ignore: decorator
  @inline export const SUBSURFACE_ANISOTROPY: usize = 384
  // @ts-ignore: decorator
  @inline export const DISPERSION_SCALE: usize = 392
  // @ts-ignore: decorator
  @inline export const ABBE_NUMBER: usize = 400
}
