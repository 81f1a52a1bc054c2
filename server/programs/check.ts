import { checkEnvironment } from '../environment'

/** Says what is missing from the environment, and ends accordingly. */
const problems = checkEnvironment()
for (const problem of problems) console.error(problem)
process.exit(problems.length ? 1 : 0)
