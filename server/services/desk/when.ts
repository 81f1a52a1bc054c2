import type { ZoneSource } from '#core/enumerations'
import { isZone } from '#core/places/isZone'
import { local, localDay, type Place } from '#core/calendar/local'
import { readWhen, showMoment, whenChips, whenWarnings, type Planned, type WhenContext } from '#core/queue/when'
import type { Id, Instant } from '#core/instant'
import type { TouchInterval } from '#core/queue/touchGoal'
import { db } from '../../db/pool'
import { playbook } from '../../engine/playbook'
import { mustSee } from '../access/access'
import { Refusal } from '../access/errors'
import { touchGoals } from '../lists/touchGoals'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'

/**
 * What is asked of a moment: for whom and what it is, in which clock it is read, and either what was typed or the
 * moment that was picked.
 */
export interface WhenAsked {
  prospectId: Id | null
  kind: Planned
  zone: string
  text: string | null
  at: Instant | null
}

/** Countries that write the month first (Unicode CLDR, date formats by region). */
const MONTH_FIRST: ReadonlySet<string> = new Set(['US', 'PH', 'PR', 'GU'])

interface Setting extends Place {
  now: Instant
  version: number
  home: string
  prospect: Id | null
  zoneFrom: ZoneSource
}

/** The moment by their clock; the hour alone where the day is the same. */
function showTheirs(at: Instant, zone: string, mine: string): string {
  return localDay(at, zone) === localDay(at, mine) ? local(at, zone).toFormat('h:mm a') : showMoment(at, zone)
}

/**
 * Reads when something is to be, in the clock asked for, and says it back in the viewer's and the person's, with what
 * does not fit.
 */
export async function sayWhen(viewer: Viewer, asked: WhenAsked) {
  if (!isZone(asked.zone)) {
    throw new Refusal('invalid', 'Unknown time zone', [{ field: 'zone', message: 'Unknown time zone' }])
  }
  if (asked.prospectId) await mustSee(viewer, asked.prospectId)
  const [
    {
      rows: [row],
    },
    goals,
  ]: [{ rows: Setting[] }, Record<Id, TouchInterval>] = await Promise.all([
    db().query<Setting>({
      name: 'when',
      text: sql`
        select
          ms(world_now()) as now, t.playbook_version as version, t.country as home, p.id as prospect, p.zone,
          p.country, p.region, p.zone_from as "zoneFrom"
        from team t
          left join prospects p on p.id = $1
      `,
      values: [asked.prospectId],
    }),
    asked.prospectId ? touchGoals(viewer, [asked.prospectId]) : {},
  ])
  const { now, version, home, prospect, ...place } = row!
  const book = await playbook(db(), version)
  const context: WhenContext = {
    now,
    kind: asked.kind,
    zone: asked.zone,
    place: prospect ? place : null,
    hours: book.callHours,
    holidays: book.holidays,
    monthFirst: MONTH_FIRST.has(home),
    goal: prospect === null ? null : (goals[prospect] ?? null),
  }
  const typed = asked.text?.trim() ? readWhen(asked.text, context) : null
  const read = asked.at === null ? typed : { at: asked.at }
  const at = read && 'at' in read ? read.at : null
  const chips = whenChips(context)
  if (at === null) {
    return { at, error: read && 'error' in read ? read.error : null, mine: null, theirs: null, warnings: [], chips }
  }
  if (at <= now) {
    return { at: null, error: 'Choose a time in the future', mine: null, theirs: null, warnings: [], chips }
  }
  const theirs = prospect && place.zone !== viewer.zone ? showTheirs(at, place.zone, viewer.zone) : null
  return { at, error: null, mine: showMoment(at, viewer.zone), theirs, warnings: whenWarnings(at, context), chips }
}
