export class SetupError extends Error {}
export function ensurePackages(say?: (text: string) => void): Promise<void>
export function findPostgres(): string | null
export function findChromium(): string | null
