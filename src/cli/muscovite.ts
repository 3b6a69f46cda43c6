import { writeFile } from 'node:fs/promises'
import { hostname } from 'node:os'
import { parseArgs } from 'node:util'
import { claimedType, isModelType } from '#core/codecs/sniff'
import { runAudit } from './audit'
import { credentialsOf } from './client'
import { runCollect } from './collect'
import { runDesk } from './desk'
import { runFetch, runVerify, runVerifyScene } from './hand-over'
import { runImport } from './import'
import { runInspect } from './inspect'
import type { Output } from './output'
import { runPreview } from './preview'

const HELP = `muscovite: the library from the command line

  muscovite inspect PATH... [--json]
      Measures materials, models and environments and lists what is wrong with them.
      PATH is a file, a folder or a zip archive.

  muscovite preview PATH --out FILE.png [--rig NAME] [--quality draft|final]
                    [--width N] [--seed N] [--stats FILE.json]
      Renders an item on its rig.

  muscovite import PATH --library NAME [--title TITLE] [--maker MAKER] [--licence LICENCE]
                   [--server URL] [--as EMAIL] [--no-wait] [--json]
      Takes a file, a folder or an archive into a running Muscovite as a delivery, and says what it found.
      Who brings it: a token in MUSCOVITE_TOKEN, or --as with the password in MUSCOVITE_PASSWORD. Given again after it broke off, it sends only what is missing.

  muscovite collect [--dry-run] [--days N] [--server URL] [--as EMAIL] [--json]
      Takes away the zips of exports, and bytes that nothing names any more, that are older than N days (30).
      With --dry-run it only counts them. What a version, a batch or a running upload names is never touched.

  muscovite audit SCENE [--project CODE] [--correct OUT.glb] [--server URL] [--as EMAIL] [--json]
      Says of every material, model and light of a scene what it is to the library, or to a project: pinned, older, altered,
      another item, foreign, withdrawn, or with files missing. SCENE is a file, the folder of a scene, or a zip.
      With --correct everything that can be is put back to the version that counts, and written as binary glTF.

  muscovite verify PATH [--server URL] [--as EMAIL] [--json]
      Says what of a hand-over is missing or altered. PATH is its folder, its zip or its manifest.
      Of a scene (.glb, .gltf, .usdz, .obj and others) it says which files are missing that the scene names.
      With --server it also says what is older than the approved version, by the manifest or by the stamps of the scene.

  muscovite fetch FOLDER [--server URL] [--as EMAIL] [--json]
      Brings what is missing or altered, and nothing that is there already; broken off, it goes on with what is missing then.

  muscovite desk FOLDER [--name NAME] [--server URL] [--as EMAIL] [--json]
      Says what of the library lies in FOLDER and below, by its hand-overs, and tells the server, so that the wall narrows by
      what lies on this desk. NAME is what the machine is called; left out, its own.

  inspect, preview and verify need neither a server nor a database.
`

const OUTPUT: Output = {
  print: text => process.stdout.write(text),
  report: line => process.stderr.write(`${line}\n`),
}

/** Exit status: 0 all well, 1 something in the input failed, 2 the call itself is wrong. */
async function main(argv: string[]): Promise<number> {
  const [command, ...rest] = argv
  if (rest.includes('--help')) {
    process.stdout.write(HELP)
    return 0
  }
  try {
    switch (command) {
      case 'inspect': {
        const { values, positionals } = parseArgs({ args: rest, allowPositionals: true, options: { json: { type: 'boolean' } } })
        if (positionals.length === 0) return usage('inspect needs at least one path.')
        return await runInspect(positionals, values.json ?? false, text => process.stdout.write(text))
      }
      case 'preview': {
        const { values, positionals } = parseArgs({
          args: rest,
          allowPositionals: true,
          options: {
            out: { type: 'string' },
            rig: { type: 'string' },
            quality: { type: 'string' },
            width: { type: 'string' },
            seed: { type: 'string' },
            stats: { type: 'string' },
          },
        })
        if (positionals.length !== 1 || !values.out) return usage('preview needs one path and --out FILE.png.')
        return await runPreview(
          positionals[0],
          { ...values, out: values.out },
          {
            write: writeFile,
            report: text => process.stderr.write(text),
          },
        )
      }
      case 'import': {
        const { values, positionals } = parseArgs({
          args: rest,
          allowPositionals: true,
          options: {
            library: { type: 'string' },
            title: { type: 'string' },
            maker: { type: 'string' },
            licence: { type: 'string' },
            server: { type: 'string' },
            as: { type: 'string' },
            'no-wait': { type: 'boolean' },
            json: { type: 'boolean' },
          },
        })
        if (positionals.length !== 1 || !values.library) return usage('import needs one path and --library NAME.')
        const { library, title, maker, licence } = values
        return await runImport(
          {
            path: positionals[0],
            library,
            title,
            maker,
            licence,
            ...credentialsOf(process.env, values.server, values.as),
            wait: !values['no-wait'],
          },
          values.json ?? false,
          OUTPUT,
        )
      }
      case 'collect': {
        const { values } = parseArgs({
          args: rest,
          options: {
            'dry-run': { type: 'boolean' },
            days: { type: 'string', default: '30' },
            server: { type: 'string' },
            as: { type: 'string' },
            json: { type: 'boolean' },
          },
        })
        const days = Number(values.days)
        if (!(days >= 0)) return usage(`--days ${values.days} is no number of days.`)
        return await runCollect(
          {
            ...credentialsOf(process.env, values.server, values.as),
            days,
            dryRun: values['dry-run'] ?? false,
          },
          values.json ?? false,
          OUTPUT,
        )
      }
      case 'audit': {
        const { values, positionals } = parseArgs({
          args: rest,
          allowPositionals: true,
          options: {
            project: { type: 'string' },
            correct: { type: 'string' },
            server: { type: 'string' },
            as: { type: 'string' },
            json: { type: 'boolean' },
          },
        })
        if (positionals.length !== 1) return usage('audit needs one scene.')
        const { project, correct } = values
        return await runAudit(
          { path: positionals[0], project, correct, ...credentialsOf(process.env, values.server, values.as) },
          values.json ?? false,
          OUTPUT,
        )
      }
      case 'verify':
      case 'fetch': {
        const { values, positionals } = parseArgs({
          args: rest,
          allowPositionals: true,
          options: { server: { type: 'string' }, as: { type: 'string' }, json: { type: 'boolean' } },
        })
        if (positionals.length !== 1) return usage(`${command} needs one path.`)
        const credentials = credentialsOf(process.env, values.server, values.as)
        if (command === 'fetch') return await runFetch(positionals[0], credentials, values.json ?? false, OUTPUT)
        const verify = isModelType(claimedType(positionals[0])) ? runVerifyScene : runVerify
        return await verify(positionals[0], values.server ? credentials : null, values.json ?? false, OUTPUT)
      }
      case 'desk': {
        const { values, positionals } = parseArgs({
          args: rest,
          allowPositionals: true,
          options: { name: { type: 'string' }, server: { type: 'string' }, as: { type: 'string' }, json: { type: 'boolean' } },
        })
        if (positionals.length !== 1) return usage('desk needs one folder.')
        const credentials = credentialsOf(process.env, values.server, values.as)
        return await runDesk(
          { folder: positionals[0], name: values.name ?? hostname(), ...credentials },
          values.json ?? false,
          OUTPUT,
        )
      }
      case undefined:
      case 'help':
      case '--help':
        process.stdout.write(HELP)
        return 0
      default:
        return usage(`There is no command ${command}.`)
    }
  } catch (error) {
    if (error instanceof TypeError && 'code' in error && String(error.code).startsWith('ERR_PARSE_ARGS'))
      return usage(error.message)
    process.stderr.write('muscovite: something went wrong that should not have; nothing was changed.\n')
    if (process.env.MUSCOVITE_DEBUG) console.error(error)
    return 1
  }
}

function usage(message: string): number {
  process.stderr.write(`muscovite: ${message}\n\n${HELP}`)
  return 2
}

process.exitCode = await main(process.argv.slice(2))
