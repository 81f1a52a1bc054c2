import type { ReactionContext } from '../state/reactionContext'
import type { Cause } from '../state/effects'
import type { OutcomeDetails } from '../state/events'
import { fullName, ofProspect, openEnrollments, type Prospect } from '../state/engineState'
import { makeTask } from './work'

/** What a referral is called, "" where no name was given. */
export const nameOf = ({ firstName, lastName }: NonNullable<OutcomeDetails['referral']>) =>
  `${firstName}${lastName}`.trim()

/** Adds the right person, where they are not known yet, and puts them on the Desk unless something is planned. */
export function addReferral(context: ReactionContext, prospect: Prospect, details: OutcomeDetails, cause: Cause): void {
  const { referral } = details
  if (!referral || !nameOf(referral)) return
  const known = referral.knownId ? context.state.prospect[referral.knownId] : null
  const first = Object.values(context.playbook.stages)
    .filter((stage) => stage.kind === 'open' && !stage.archived)
    .sort((a, b) => a.position - b.position)[0]!
  const person =
    known ??
    context.create(
      'addPerson',
      'prospect',
      {
        id: context.newId(),
        companyId: prospect.companyId,
        ownerId: prospect.ownerId ?? context.event.actorId,
        stageId: first.id,
        firstName: referral.firstName.trim(),
        lastName: referral.lastName.trim(),
        title: referral.title?.trim() || null,
        timeZone: prospect.timeZone,
        timeZoneFrom: prospect.timeZoneFrom,
        country: prospect.country,
        region: prospect.region,
        stopCall: false,
        stopEmail: false,
        rating: null,
        ratedByScore: true,
        status: 'active',
      },
      cause,
    )
  if (!known && referral.email) {
    context.create(
      'addContact',
      'emailAddress',
      { id: context.newId(), prospectId: person.id, address: referral.email, status: 'ok', position: 0 },
      cause,
    )
  }
  if (!known && referral.phone) {
    context.create(
      'addContact',
      'phone',
      {
        id: context.newId(),
        prospectId: person.id,
        number: referral.phone,
        kind: 'work',
        status: 'unverified',
        textConsent: 'unknown',
        position: 0,
      },
      cause,
    )
  }
  if (
    ofProspect(context.state, 'task', person.id).some((task) => task.status === 'open') ||
    openEnrollments(context.state, person.id).length
  ) {
    return
  }
  makeTask(
    context,
    person,
    { kind: 'follow_up', priority: 1, title: `Referred by ${fullName(prospect)}`, dueAt: context.now },
    cause,
  )
}
