/**
 * CIE L* (0..100) of a relative luminance (1 = diffuse white); a straight line below (6/29)³, where the cube root is too steep.
 * Source: CIE 15:2018, Colorimetry, 8.2.1.
 */
export const toLightness = (y: number): number => (y > (6 / 29) ** 3 ? 116 * Math.cbrt(y) - 16 : (y * 29 ** 3) / 27)
