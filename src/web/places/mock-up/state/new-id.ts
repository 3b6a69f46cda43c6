/** Of something new in a scene; two pages do not come upon the same one. */
export const newId = (): string => Array.from(crypto.getRandomValues(new Uint8Array(12)), n => (n % 36).toString(36)).join('')
