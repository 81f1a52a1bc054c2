import { existsSync } from 'node:fs'
import { clientOf, databaseMeant, fileNamed, lastLine } from './archive.mjs'
import { fail, say } from './log.mjs'

/**
 * npm run restore -- FILE: puts a backup in the place of the database. The whole file is read first; then it is
 * restored beside, looked at, and swapped in at the end. Until then nothing is changed, and what was there before is
 * kept under another name.
 */
const file = fileNamed('restore')
if (!existsSync(file)) fail(`There is no file ${file}.`)
const database = await databaseMeant()
const client = clientOf(database.url)
const stop = (sentence) => {
  database.leave()
  fail(`${sentence} The database is as it was.`)
}

const read = client.run('pg_restore', ['--file=/dev/null', file])
if (read.code !== 0) stop(`${file} is no backup of Uphill, or it is damaged: ${lastLine(read.output)}.`)

const stamp = new Date().toISOString().replace(/\D/g, '').slice(0, 14)
const [beside, before] = [`${client.name}_restoring_${stamp}`, `${client.name}_before_${stamp}`]
const maintenance = ['postgres', 'template1'].find((name) => client.sql('select 1', name).code === 0)
if (!maintenance) {
  stop('Neither the database "postgres" nor "template1" can be reached, from which databases are created.')
}
const made = client.sql(`create database "${beside}" template template0 encoding 'UTF8'`, maintenance)
if (made.code !== 0) {
  stop(
    `A database to restore into could not be created: ${lastLine(made.output)}. The user of DATABASE_URL needs the right to create databases.`,
  )
}

const drop = () => client.sql(`drop database if exists "${beside}" with (force)`, maintenance)
const restored = client.run(
  'pg_restore',
  ['--no-owner', '--no-privileges', '--exit-on-error', `--dbname=${beside}`, file],
  beside,
)
if (restored.code !== 0) {
  drop()
  stop(`The backup could not be restored: ${lastLine(restored.output)}.`)
}
const looked = client.sql('select (select count(*) from team) = 1 and (select count(*) from clock) = 1', beside)
if (looked.code !== 0 || !looked.output.includes('t')) {
  drop()
  stop(`${file} is no backup of Uphill: its tables are missing.`)
}

// Nobody may come in while the names are changed; programs that are running come back by themselves.
const end = `select pg_terminate_backend(pid) from pg_stat_activity where datname = '${client.name.replaceAll("'", "''")}' and pid <> pg_backend_pid()`
client.sql(`alter database "${client.name}" with allow_connections false`, maintenance)
client.sql(end, maintenance)
const renamed = client.sql(`alter database "${client.name}" rename to "${before}"`, maintenance)
if (renamed.code !== 0) {
  client.sql(`alter database "${client.name}" with allow_connections true`, maintenance)
  drop()
  stop(`The database could not be put aside: ${lastLine(renamed.output)}.`)
}
const swapped = client.sql(`alter database "${beside}" rename to "${client.name}"`, maintenance)
if (swapped.code !== 0) {
  client.sql(`alter database "${before}" rename to "${client.name}"`, maintenance)
  client.sql(`alter database "${client.name}" with allow_connections true`, maintenance)
  drop()
  stop(`The restored database could not be put in place: ${lastLine(swapped.output)}.`)
}
client.sql(`alter database "${before}" with allow_connections true`, maintenance)
database.leave()
say(`Restored from ${file}`)
say(`What was there before is kept as the database "${before}". Drop it when you no longer need it.`)
