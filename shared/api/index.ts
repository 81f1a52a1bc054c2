import type { Endpoint } from './endpoint'
import * as accounts from './accounts'
import * as bulk from './bulk'
import * as cadences from './cadences'
import * as deals from './deals'
import * as desk from './desk'
import * as duplicates from './duplicates'
import * as fields from './fields'
import * as find from './find'
import * as imports from './imports'
import * as lists from './lists'
import * as places from './places'
import * as problems from './problems'
import * as prospects from './prospects'
import * as session from './session'
import * as settings from './settings'
import * as setup from './setup'
import * as stages from './stages'
import * as team from './team'
import * as testEmails from './testEmails'

/** Every endpoint there is, for the OpenAPI document and for the check that each has its route. */
export const ENDPOINTS: Readonly<Record<string, Endpoint>> = Object.fromEntries(
  [
    session,
    accounts,
    find,
    prospects,
    lists,
    fields,
    duplicates,
    bulk,
    deals,
    desk,
    cadences,
    imports,
    places,
    problems,
    settings,
    setup,
    stages,
    team,
    testEmails,
  ]
    .flatMap((area) => Object.entries(area) as [string, unknown][])
    .filter(
      (entry): entry is [string, Endpoint] =>
        typeof entry[1] === 'object' && entry[1] !== null && 'method' in entry[1] && 'access' in entry[1],
    ),
)
