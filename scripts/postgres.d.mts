export interface RunningPostgres {
  url: string
  urlOf: (database: string) => string
  died: Promise<unknown>
  stop: () => Promise<void>
}
export function startPostgres(dataFolder: string, say?: (text: string) => void): Promise<RunningPostgres>
