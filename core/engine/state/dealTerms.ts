/** What a deal is about, as someone sets it: money in the team's currency, an ISO day. */
export interface DealTerms {
  name: string
  value: number | null
  stageId: string | null
  /** Percent, 0 to 100. */
  likelihood: number
  expectedClose: string | null
}
