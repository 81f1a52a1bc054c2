import type { TimeZoneSource } from '#core/enumerations'
import { showDate } from '#core/calendar/dateStyle'
import { isZone } from '#core/places/isZone'
import { local, localDay, type Place } from '#core/calendar/local'
import { readWhen, showMoment, whenChips, whenWarnings, type Planned, type WhenContext } from '#core/queue/when'
import type { Id, Instant } from '#core/instant'
import type { TouchInterval } from '#core/queue/touchGoal'
import { db } from '../../db/pool'
import { playbook } from '../../engine/playbook'
import { mustSee } from '../access/access'
import { Refusal } from '../access/errors'
import { nextBestTime } from '../bestTime/bestTimes'
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
  timeZone: string
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
  timeZoneFrom: TimeZoneSource
}

/** The moment by their clock; the hour alone where the day is the same. */
function showTheirs(at: Instant, timeZone: string, { timeZone: mine, dateStyle }: Viewer): string {
  return localDay(at, timeZone) === localDay(at, mine)
    ? showDate(local(at, timeZone), dateStyle, 'clock')
    : showMoment(at, timeZone, dateStyle)
}

/**
 * Reads when something is to be, in the clock asked for, and says it back in the viewer's and the person's, with what
 * does not fit.
 */
export async function sayWhen(viewer: Viewer, asked: WhenAsked) {
  if (!isZone(asked.timeZone)) {
    throw new Refusal('invalid', 'Unknown time zone', [{ field: 'timeZone', message: 'Unknown time zone' }])
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
          ms(world_now()) as now, t.playbook_version as version, t.country as home, p.id as prospect,
          p.time_zone as "timeZone",
          p.country, p.region, p.time_zone_from as "timeZoneFrom"
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
    timeZone: asked.timeZone,
    place: prospect ? place : null,
    hours: book.callHours,
    holidays: book.holidays,
    monthFirst: viewer.dateStyle !== 'day_first' && MONTH_FIRST.has(home),
    dateStyle: viewer.dateStyle,
    best: prospect !== null && asked.kind === 'call' ? await nextBestTime(prospect, now, book) : null,
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
  const theirs = prospect && place.timeZone !== viewer.timeZone ? showTheirs(at, place.timeZone, viewer) : null
  return {
    at,
    error: null,
    mine: showMoment(at, viewer.timeZone, viewer.dateStyle),
    theirs,
    warnings: whenWarnings(at, context),
    chips,
  }
}
