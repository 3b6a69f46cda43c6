import { defineConfig } from 'drizzle-kit'

export default defineConfig({
  dialect: 'postgresql',
  schema: './src/server/tables/*.table.ts',
  out: './src/server/tables/migrations',
})
