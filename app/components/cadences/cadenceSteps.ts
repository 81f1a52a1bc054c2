import { computed, onMounted, ref, shallowRef, watch, type Ref } from 'vue'
import { stretchFrom, withCopies, withMoved, withoutStep, withStep } from '#core/cadence/arrange'
import { stepBefore } from '#core/cadence/route'
import { wayInWords } from '#core/cadence/ways'
import type { Field } from '#core/filter/fields'
import { print } from '#core/filter/sentence'
import type { Cadence, StepDraft, WayDraft } from '#shared/api/cadences/cadences'
import { filterFields } from '#shared/api/lists'
import { newId } from '#shared/newId'
import { call } from '~/api/call'
import { blankStep } from './blankStep'
import { useCopiedSteps } from './copiedSteps'
import { useNotices } from '~/stores/notices'

/** The steps of a cadence that is edited: which is selected, where new ones go, and what moves them. */
export function useCadenceSteps(cadence: Ref<Cadence | null>) {
  const notices = useNotices()
  const selected = ref<string | null>(null)
  /** The way whose heading was chosen: new steps are added at its end. */
  const target = ref<string | null>(null)
  watch(selected, () => {
    target.value = null
  })
  const steps = computed({
    get: () => cadence.value?.steps ?? [],
    set: (arranged) => {
      if (cadence.value) cadence.value.steps = arranged
    },
  })
  const step = computed(() => steps.value.find(({ id }) => id === selected.value) ?? null)
  const stepIndex = computed(() => steps.value.findIndex(({ id }) => id === selected.value))
  /** The steps on the way of the one that is selected. */
  const mates = computed(() => steps.value.filter(({ wayId }) => wayId === step.value?.wayId))
  const canMove = computed(() => {
    const index = step.value ? mates.value.indexOf(step.value) : -1
    return { up: index > 0, down: index >= 0 && index < mates.value.length - 1 }
  })
  /** What the step before is called, on the way to the one that is selected; empty for the first. */
  const previous = computed(() => {
    const placed = steps.value.map((one, position) => ({ ...one, position, cadenceId: '' }))
    return (stepIndex.value > 0 && stepBefore({ steps: placed }, placed[stepIndex.value]!)?.name) || ''
  })
  const addingTo = computed(() => {
    const way = steps.value.flatMap(({ ways }) => ways).find(({ id }) => id === target.value)
    if (way) return `to “${way.name}”`
    return step.value ? `after “${step.value.name}”` : 'at the end'
  })
  /** Where new steps go: to the end of the way that was chosen, or behind the step that is selected. */
  const behind = () =>
    target.value || !step.value ? { wayId: target.value } : { stepId: step.value.id, wayId: step.value.wayId }
  function add(kind: StepDraft['kind']): void {
    const made = blankStep(kind, steps.value, behind().wayId)
    steps.value = withStep(steps.value, made, behind())
    selected.value = made.id
  }
  const copied = useCopiedSteps()
  /** Copies the step that is selected, or all from it to the end of its way, to be pasted here or elsewhere. */
  function copy(toEnd: boolean): void {
    if (!step.value) return
    copied.value = stretchFrom(steps.value, step.value, toEnd)
    const [first] = copied.value
    notices.say(copied.value.length === 1 ? `Copied “${first!.name}”.` : `Copied ${copied.value.length} steps.`)
  }
  function paste(): void {
    const before = new Set(steps.value.map(({ id }) => id))
    steps.value = withCopies(steps.value, copied.value, behind(), () => newId())
    selected.value = steps.value.find(({ id }) => !before.has(id))?.id ?? selected.value
  }
  function remove(): void {
    const at = stepIndex.value
    if (step.value) steps.value = withoutStep(steps.value, step.value)
    selected.value = steps.value[Math.min(at, steps.value.length - 1)]?.id ?? null
  }
  function shift(by: 1 | -1): void {
    if (step.value) steps.value = withMoved(steps.value, step.value, by)
  }
  function changeStep(changed: Partial<StepDraft>): void {
    if (step.value) Object.assign(step.value, changed)
  }
  function setWait(stepId: string, amount: number): void {
    const one = steps.value.find(({ id }) => id === stepId)
    if (one) one.wait.amount = amount
  }
  return {
    selected,
    target,
    step,
    stepIndex,
    canMove,
    previous,
    addingTo,
    usedWays: computed(() => new Set(steps.value.map(({ wayId }) => wayId))),
    add,
    copy,
    paste,
    remove,
    shift,
    changeStep,
    setWait,
  }
}

/** Says what the ways of branches ask, as sentences. */
export function useWaysInWords(): (way: WayDraft) => string {
  const fields = shallowRef<ReadonlyMap<string, Field>>(new Map())
  const notices = useNotices()
  onMounted(() =>
    call(filterFields).then((answer) => {
      fields.value = new Map(answer.fields.map((field) => [field.key, field]))
    }, notices.error),
  )
  return ({ when }) => {
    const outcomes = (fields.value.get('outcomes')?.choices ?? []).map(({ id, name }) => [id, name] as const)
    return wayInWords(when, Object.fromEntries(outcomes), (filter) => print(filter, fields.value))
  }
}
