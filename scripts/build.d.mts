export function buildKernel(): Promise<boolean>
export function buildNode(): Promise<boolean>
export function buildWeb(): Promise<boolean>
