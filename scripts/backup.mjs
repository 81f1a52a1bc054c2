import { statSync } from 'node:fs'
import { client, databaseMeant, fileNamed } from './archive.mjs'
import { fail, say } from './say.mjs'
import { run } from './shell.mjs'

/** npm run backup -- FILE: the whole database in one file, taken as of one moment while work goes on. */
const file = fileNamed('backup')
const database = await databaseMeant()
const done = run(client('pg_dump'), ['--format=custom', '--no-owner', '--no-privileges', `--file=${file}`, database.url])
database.leave()
if (done.code !== 0) fail(`The backup could not be made: ${done.output.split('\n').at(-1)}`)
say(`Backed up to ${file} (${Math.ceil(statSync(file).size / 1024)} kB)`)
