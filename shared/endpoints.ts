import type { Endpoint } from './api/endpoint'
import * as accounts from './api/accounts'
import * as bestTime from './api/desk/bestTime'
import * as blocks from './api/blocks/blocks'
import * as blockLines from './api/blocks/lines'
import * as blockWork from './api/blocks/work'
import * as bulk from './api/bulk'
import * as cadenceFile from './api/cadences/cadenceFile'
import * as cadences from './api/cadences/cadences'
import * as cadenceLaunch from './api/cadences/launch'
import * as cadenceResults from './api/cadences/results'
import * as companies from './api/companies'
import * as deals from './api/deals'
import * as desk from './api/desk/desk'
import * as queue from './api/desk/queue'
import * as duplicates from './api/duplicates'
import * as enrollments from './api/cadences/enrollments'
import * as emailTemplates from './api/email/templates'
import * as eventFeed from './api/events/feed'
import * as history from './api/events/history'
import * as fields from './api/settings/fields'
import * as files from './api/email/files'
import * as find from './api/find'
import * as incoming from './api/desk/incoming'
import * as imports from './api/imports'
import * as lineOutcomes from './api/settings/lineOutcomes'
import * as lists from './api/lists'
import * as notifications from './api/notifications'
import * as otherDialers from './api/blocks/otherDialers'
import * as forms from './api/settings/forms'
import * as outcomes from './api/settings/outcomes'
import * as queueSettings from './api/settings/queue'
import * as places from './api/places'
import * as problems from './api/problems'
import * as prospects from './api/prospects'
import * as sending from './api/email/sending'
import * as session from './api/session'
import * as settings from './api/settings/settings'
import * as setup from './api/settings/setup'
import * as stages from './api/settings/stages'
import * as team from './api/team'
import * as recording from './api/settings/recording'
import * as voicemail from './api/desk/voicemail'
import * as testEmails from './api/email/testEmails'

/** Every endpoint there is, for the OpenAPI document and for the check that each has its route. */
export const ENDPOINTS: Readonly<Record<string, Endpoint>> = Object.fromEntries(
  [
    session,
    accounts,
    find,
    incoming,
    voicemail,
    recording,
    prospects,
    companies,
    history,
    eventFeed,
    lineOutcomes,
    lists,
    fields,
    duplicates,
    blocks,
    blockLines,
    blockWork,
    bulk,
    deals,
    desk,
    bestTime,
    queue,
    queueSettings,
    cadenceFile,
    cadences,
    cadenceLaunch,
    cadenceResults,
    enrollments,
    emailTemplates,
    files,
    imports,
    notifications,
    otherDialers,
    forms,
    outcomes,
    places,
    problems,
    sending,
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
