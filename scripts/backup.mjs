import { renameSync, rmSync, statSync } from 'node:fs'
import { clientOf, databaseMeant, fileNamed, lastLine } from './archive.mjs'
import { fail, say } from './log.mjs'

/**
 * npm run backup -- FILE: the whole database in one file, taken as of one moment while work goes on. Only its owner may
 * read the file.
 */
const file = fileNamed('backup')
const database = await databaseMeant()
process.umask(0o077)
// Written beside and put in place at the end: a backup that breaks off leaves the one before as it was.
const half = `${file}.part`
const done = clientOf(database.url).run('pg_dump', [
  '--format=custom',
  '--no-owner',
  '--no-privileges',
  `--file=${half}`,
])
database.leave()
if (done.code !== 0) {
  rmSync(half, { force: true })
  fail(`The backup could not be made: ${lastLine(done.output)}`)
}
renameSync(half, file)
say(`Backed up to ${file} (${Math.ceil(statSync(file).size / 1024)} kB)`)
