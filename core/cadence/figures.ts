import { EMAIL_WAITS, type StepKind } from '../enumerations'

/** What is counted of a step, in order. */
export const STEP_FIGURES = [
  'sent',
  'delivered',
  'opened',
  'clicked',
  'replied',
  'bounced',
  'optedOut',
  'called',
  'reached',
  'done',
  'meetings',
] as const
export type StepFigure = (typeof STEP_FIGURES)[number]

/** Figures of a step as they are called. */
export const FIGURE_LABELS: Readonly<Record<StepFigure, string>> = {
  sent: 'sent',
  delivered: 'delivered',
  opened: 'opened',
  clicked: 'clicked',
  replied: 'replied',
  bounced: 'bounced',
  optedOut: 'opted out',
  called: 'called',
  reached: 'spoken to',
  done: 'done',
  meetings: 'meetings',
}

/** A figure as it is called beside its count. */
export const figureOf = (figure: StepFigure, count: number) =>
  figure === 'meetings' && count === 1 ? 'meeting' : FIGURE_LABELS[figure]

/** What someone who is at a step waits for; with a moment where one is known. */
export const WAITS_FOR = {
  resume: 'the cadence is paused',
  callBack: 'a call back was promised',
  room: 'no room to start before',
  time: 'not due before',
  email: 'its email leaves',
  window: `waits for ${EMAIL_WAITS.window}`,
  cap: `waits for ${EMAIL_WAITS.cap}`,
  domain: `waits for ${EMAIL_WAITS.domain}`,
  spacing: `waits for ${EMAIL_WAITS.spacing}`,
  detail: 'its email lacks a detail',
  rep: 'on the Desk',
} as const
export type WaitsFor = keyof typeof WAITS_FOR

/** What is counted of a step of each kind, the first being what the others are shares of. */
export const FIGURES_OF: Readonly<Record<StepKind, readonly StepFigure[]>> = {
  email: ['sent', 'delivered', 'opened', 'clicked', 'replied', 'bounced', 'optedOut', 'meetings'],
  call: ['called', 'reached', 'meetings'],
  text: ['done', 'delivered', 'replied', 'meetings'],
  social: ['done', 'meetings'],
  task: ['done', 'meetings'],
  meeting: ['done', 'meetings'],
  branch: [],
}
