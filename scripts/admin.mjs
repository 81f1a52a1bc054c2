import { ensureBuilt, ensurePackagesInstalled } from './build.mjs'
import { show } from './shell.mjs'

/** npm run admin -- EMAIL NAME [ZONE]: makes the first administrator. */
ensurePackagesInstalled()
ensureBuilt()
process.exit(await show(process.execPath, ['.output/programs/admin.mjs', ...process.argv.slice(2)]))
