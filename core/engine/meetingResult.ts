/**
 * How a meeting turned out: held, held with somebody worth a deal, or they did not come. By itself, so that the
 * interface needs no engine.
 */
export const MEETING_RESULTS = ['held', 'qualified', 'no_show'] as const
export type MeetingResult = (typeof MEETING_RESULTS)[number]
