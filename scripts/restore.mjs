import { existsSync } from 'node:fs'
import { client, databaseMeant, fileNamed } from './archive.mjs'
import { fail, say } from './say.mjs'
import { run } from './shell.mjs'

/** npm run restore -- FILE: puts a backup in the place of what is in the database. All of it or nothing. */
const file = fileNamed('restore')
if (!existsSync(file)) fail(`There is no file ${file}.`)
const readable = run(client('pg_restore'), ['--list', file])
if (readable.code !== 0) fail(`${file} is no backup of Uphill: ${readable.output.split('\n').at(-1)}`)
const database = await databaseMeant()
const clear = run(client('psql'), [database.url, '-v', 'ON_ERROR_STOP=1', '-qc', 'drop schema if exists graphile_worker cascade; drop schema public cascade; create schema public'])
if (clear.code !== 0) fail(`The database could not be cleared: ${clear.output.split('\n').at(-1)}`)
const done = run(client('pg_restore'), ['--no-owner', '--no-privileges', '--single-transaction', '--exit-on-error', `--dbname=${database.url}`, file])
database.leave()
if (done.code !== 0) fail(`The backup could not be put back: ${done.output.split('\n').at(-1)}`)
say(`Restored from ${file}`)
