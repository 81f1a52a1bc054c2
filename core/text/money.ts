/** A sum in a currency (ISO 4217) as Americans write it: "$1,250", with cents only where there are any. */
export function moneyInWords(value: number, currency: string): string {
  const digits = Number.isInteger(value) ? 0 : 2
  return new Intl.NumberFormat('en-US', {
    style: 'currency',
    currency,
    minimumFractionDigits: digits,
    maximumFractionDigits: digits,
  }).format(value)
}
