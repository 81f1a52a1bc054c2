import { moneyInWords } from '#core/text/money'
import { useSession } from '~/stores/session'

/** Money in the team's currency, as the reader's locale has it: "$1,250", with cents only where there are any. */
export function useMoney() {
  const session = useSession()
  return { show: (value: number | null) => (value === null ? '' : moneyInWords(value, session.team.currency)) }
}

/** A sum as people type it ("$1,250.50", "12k"); null for none, NaN where it is no sum. */
export function readMoney(text: string): number | null {
  const plain = text
    .trim()
    .replace(/^[^\d.-]+/, '')
    .replace(/[\s,]/g, '')
  if (!text.trim()) return null
  const found = /^(\d+(?:\.\d+)?)(k|m)?$/i.exec(plain)
  if (!found) return NaN
  return Number(found[1]) * ({ k: 1_000, m: 1_000_000 }[found[2]?.toLowerCase() ?? ''] ?? 1)
}
