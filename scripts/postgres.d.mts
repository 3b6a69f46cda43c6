export interface RunningPostgres {
  url: string
  port: number
  urlOf: (database: string) => string
  died: Promise<unknown>
  stop: () => Promise<void>
}
export function startPostgres(dataFolder: string, say?: (text: string) => void, port?: number | null): Promise<RunningPostgres>
