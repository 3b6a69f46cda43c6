declare module 'gltf-validator' {
  interface Report {
    issues: { numErrors: number; messages: { code: string; message: string; severity: number; pointer?: string }[] }
  }
  export function validateBytes(bytes: Uint8Array): Promise<Report>
}
