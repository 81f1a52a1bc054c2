/** The merge fields a template may name, with what they stand for. */
export const MERGE_FIELDS = {
  first_name: 'First name',
  last_name: 'Last name',
  title: 'Job title',
  company: 'Company',
  city: 'City',
  sender_name: 'Your name',
  sender_first_name: 'Your first name',
  team: 'Your company',
  signature: 'Your signature',
} as const

/** Merge fields as they stand in a sentence: "job title or city"; custom ones by their name in templates. */
export function mergeFieldsInWords(names: readonly string[], link: 'or' | 'and' = 'or'): string {
  const labels: Readonly<Record<string, string>> = MERGE_FIELDS
  const words = names.map((name) => (labels[name] ?? name.replaceAll('_', ' ')).toLowerCase())
  return new Intl.ListFormat('en-US', { type: link === 'or' ? 'disjunction' : 'conjunction' }).format(words)
}
