import { ACTIONS } from '#core/actions/registry'
import { circleOfCadences } from '#core/engine/afterLast'
import type { Problem } from '#core/engine/state/events'
import { routeFaults, stepsTo } from '#core/cadence/route'
import { NEEDS_REPLY } from '#core/cadence/ways'
import { versionFaults } from '#core/cadence/versions'
import { conditionFault } from '#core/filter/problems'
import { templateFaults, type CustomMergeField } from '#core/text/merge'
import { MOST_PARTS, textLength } from '#core/text/textMessage'
import type { Id } from '#core/instant'
import type { Cadence, StepDraft, WayDraft } from '#shared/api/cadences/cadences'
import { readMergeNames } from '../../db/mergeFields'
import { EVERYTHING, readFilterWorld } from '../../db/filterWorld'
import { db } from '../../db/pool'
import { currentPlaybook } from '../../engine/playbook'
import { Refusal } from '../access/errors'
import { readWindow } from '../sending/windows'
import { emailProblems } from '../templates/templates'
import { actionFaults } from '../actions/checkActions'
import { asSteps } from './cadences'

/** A cadence as it is edited. */
export type Draft = Omit<Cadence, 'id' | 'status' | 'version'>

/** What keeps steps from being used: broken templates, an email without subject or text. Each at its field. */
function stepProblems(steps: readonly StepDraft[], customFields: ReadonlyMap<string, CustomMergeField>): Problem[] {
  const route = { steps: asSteps(steps, '') }
  const bySubject = new Set(steps.filter(({ kind, subject }) => kind === 'email' && subject.trim()).map(({ id }) => id))
  return steps.flatMap((step, index) => {
    const at = (field: string, message: string) => ({ field: `steps.${index}.${field}`, message })
    const faults = (['subject', 'body', 'link'] as const).flatMap((field) =>
      templateFaults(step[field], customFields).map((fault) => at(field, `Line ${fault.line}: ${fault.message}`)),
    )
    // Without a subject it goes on in the thread of an email that comes before it on every way there.
    if (step.kind === 'email' && !stepsTo(route, route.steps[index]!).some(({ id }) => bySubject.has(id))) {
      faults.push(at('subject', 'The first email needs a subject'))
    }
    if (step.kind === 'email' && !step.body.trim()) faults.push(at('body', 'An email needs a text'))
    if (step.kind === 'text' && !step.body.trim()) faults.push(at('body', 'Enter what to text'))
    const { parts } = textLength(step.kind === 'text' ? step.body : '')
    if (parts > MOST_PARTS) faults.push(at('body', `Too long: ${parts} messages, at most ${MOST_PARTS}`))
    return faults
  })
}

/** What is wrong with the formatting, the files and the versions of emails; each at its field. */
async function fileProblems(steps: readonly StepDraft[]): Promise<Problem[]> {
  const found = await Promise.all(
    steps.map(async (step, index) => {
      const at = (field: string, message: string) => ({ field: `steps.${index}.${field}`, message })
      const ofVersions = await Promise.all(
        step.versions.map(async (version, place) => {
          const { faults, problems } = await emailProblems({ ...version, attachments: step.attachments })
          const found = [...faults, ...problems].filter(({ field }) => field !== 'attachments')
          return found.map(({ field, message }) => at(`versions.${place}.${field}`, message))
        }),
      )
      const wrong = versionFaults(step).map(({ index: place, field, message }) =>
        at(place < 0 ? field : `versions.${place}.${field}`, message),
      )
      if (step.html === null && !step.attachments.length) return [...ofVersions.flat(), ...wrong]
      const { faults, problems } = await emailProblems(step)
      const ofHtml = templateFaults(step.body).length ? [] : faults.filter(({ field }) => field === 'body')
      return [
        ...ofVersions.flat(),
        ...wrong,
        ...[...ofHtml, ...problems].map(({ field, message }) => at(field, message)),
      ]
    }),
  )
  return found.flat()
}

/** What a starter text leaves to the team: it must be replaced before anyone gets it. */
export function placeholdersIn(steps: readonly StepDraft[]): Problem[] {
  return steps.flatMap((step, index) =>
    [
      ...(['subject', 'body', 'link'] as const).map((field) => [field, step[field]] as const),
      ...step.versions.flatMap((version, place) =>
        (['subject', 'body'] as const).map((field) => [`versions.${place}.${field}`, version[field]] as const),
      ),
    ].flatMap(([field, text]) => {
      const found = /\[\[(.*?)\]\]/s.exec(text)
      const message = `${step.name}: replace “[[${found?.[1]}]]” with your own words first`
      return found ? [{ field: `steps.${index}.${field}`, message }] : []
    }),
  )
}

/** What is wrong with the order of steps, and with what their ways ask; each at its field. */
async function branchProblems({ steps, exits }: Pick<Draft, 'steps' | 'exits'>): Promise<Problem[]> {
  const faults = routeFaults(asSteps(steps, '')).map(({ index, field, message }) => ({
    field: `steps.${index}.${field}`,
    message,
  }))
  if (!steps.some((step) => step.ways.length)) return faults
  const { fields } = await readFilterWorld(db(), EVERYTHING)
  const outcomes = new Set(fields.get('outcomes')!.choices!.map(({ id }) => id))
  const faultOf = (when: WayDraft['when']): string | undefined => {
    if (NEEDS_REPLY.has(when?.type) && exits.replied !== null) {
      return 'A reply ends this cadence, so nobody takes this way. Change what a reply does under Exit rules first'
    }
    if (when?.type === 'outcome') {
      return when.outcomeIds.every((id) => outcomes.has(id)) ? undefined : 'Choose outcomes that are there'
    }
    return when?.type === 'filter' ? conditionFault(when.where, fields) : undefined
  }
  const asked = steps.flatMap((step, index) =>
    step.ways.flatMap(({ when }, place) => {
      const message = faultOf(when)
      return message ? [{ field: `steps.${index}.ways.${place}`, message }] : []
    }),
  )
  return [...faults, ...asked]
}

/** What is wrong with what follows the last step; each at its action. */
async function afterProblems(actions: Draft['afterLast'], id: Id | null): Promise<Problem[]> {
  if (!actions.length) return []
  const at = (index: number, message: string) => ({ field: `afterLast.${index}`, message })
  const faults = (await actionFaults(actions)).flatMap((message, index) => {
    const mayFollow = ACTIONS[actions[index]!.type]!.mayWait
    const fault = mayFollow ? message : 'This action belongs to a call: choose another'
    return fault ? [at(index, fault)] : []
  })
  const { cadences, afterLast } = await currentPlaybook(db())
  const circle = id && circleOfCadences({ ...afterLast, [id]: actions })
  if (!circle) return faults
  const names = circle.map((one) => `“${cadences[one]?.name ?? 'a cadence'}”`).join(', then ')
  const index = actions.findIndex(({ type }) => type === 'startCadence')
  return [...faults, at(index, `This would never end: ${names}`)]
}

/** What is wrong with who may enter and what ends it; each at its field. */
async function ruleProblems({ entry, exits, windowId }: Draft): Promise<Problem[]> {
  if (windowId) await readWindow(windowId)
  const problems: Problem[] = []
  if (entry.where) {
    const { fields } = await readFilterWorld(db(), EVERYTHING)
    const message = conditionFault(entry.where, fields)
    if (message) problems.push({ field: 'entry.where', message })
  }
  const { stages } = await currentPlaybook(db())
  if (exits.stages.ids.some((id) => !stages[id])) {
    problems.push({ field: 'exits.stages.ids', message: 'Choose stages that are there' })
  }
  return problems
}

/** Throws what is wrong with a cadence as it is saved, each at its field; an active one must be ready to run. */
export async function checkDraft(draft: Draft, status: Cadence['status'], id: Id | null): Promise<void> {
  const problems = stepProblems(draft.steps, await readMergeNames(db()))
  problems.push(...(await branchProblems(draft)), ...(await afterProblems(draft.afterLast, id)))
  problems.push(...(await ruleProblems(draft)), ...(await fileProblems(draft.steps)))
  if (new Set(draft.steps.map((step) => step.id)).size !== draft.steps.length) {
    problems.push({ field: 'steps', message: 'Two steps have the same id' })
  }
  if (status === 'active') problems.push(...placeholdersIn(draft.steps))
  if (status === 'active' && !draft.steps.length) {
    problems.push({ field: 'steps', message: 'An active cadence needs a step' })
  }
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
}
