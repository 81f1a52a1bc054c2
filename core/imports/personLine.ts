import { tidy } from '../text/names'

/** A person as one line names them; empty text for what it does not say. */
export interface PersonLine {
  name: string
  title: string
  company: string
  email: string
  phone: string
}

/**
 * The first word of a line that looks like an address: one @, and a point after it. Words are looked at one by one, so
 * that no line takes long.
 */
function findEmail(line: string): { whole: string; address: string } | null {
  for (const [whole] of line.matchAll(/[^\s,;]+/g)) {
    const address = whole.replace(/^<?(?:mailto:)?/i, '').replace(/>$/, '')
    const at = address.indexOf('@')
    if (
      at > 0 &&
      at === address.lastIndexOf('@') &&
      !/[<>]/.test(address) &&
      /^[^.].*\../.test(address.slice(at + 1))
    ) {
      return { whole, address }
    }
  }
  return null
}
/** No more of a line is read, in characters. */
const LONGEST = 1_000
/** Seven digits or more with what people put between them; an E.164 number has at most fifteen. */
const PHONE = /(?:tel:)?(\+?\(?\d(?:[\s().\-/]*\d){6,14})(?!\d)/i

const PHONE_AND_EXTENSION = new RegExp(`${PHONE.source}(?:\\s*(?:ext\\.?|extension|x)\\s*\\d{1,6})?`, 'i')
const YEARS = /^\s*(?:19|20)\d\d\s*[-/]\s*(?:19|20)\d\d\s*$/

/**
 * Reads a person from one line, as someone types or pastes it: "Petra Lindqvist, Head of aging at Oxbow Cider Works,
 * 607 555 0142, petra@oxbow.example". The address and the number may stand anywhere; of the rest, set apart by commas,
 * semicolons, tabs or bars, the first is the name, then the title and the company, joined by "at" or not; one alone is
 * the company, unless it reads like a title. Whether address and number are right is not judged here.
 */
export function readPersonLine(whole: string): PersonLine {
  const line = whole.slice(0, LONGEST)
  const email = findEmail(line)
  const withoutEmail = email ? line.replace(email.whole, ',') : line
  const found = PHONE.exec(withoutEmail)
  // Two years with a dash between them are no number.
  const phone = found && !YEARS.test(found[1]!) ? tidy(found[1]!) : ''
  const parts = (phone ? withoutEmail.replace(PHONE_AND_EXTENSION, ',') : withoutEmail)
    .split(/[,;\t|]/)
    .map(tidy)
    .filter(Boolean)
  const [first = '', ...rest] = parts
  const [name, ofName] = splitAt(first)
  const after = rest.length === 1 ? splitOnly(rest[0]!) : splitSeveral(rest)
  const others = rest.length ? after : []
  const [title = '', company = ''] = ofName ? [rest[0] ?? '', ofName] : others
  return { name, title, company, email: email?.address ?? '', phone }
}

/** "Head of aging at Oxbow" in two; the last "at" parts them. */
function splitAt(text: string): [before: string, after: string] {
  const match = /^(.*\S)\s+(?:at|@)\s+(\S.*)$/i.exec(text)
  return match ? [match[1]!, match[2]!] : [text, '']
}

/** Words by which a lone part reads as a job title, and those that say it is a company all the same; from memory. */
const TITLE_WORDS = new Set(
  (
    'manager director head chief officer president vp svp ceo cto cfo coo owner founder buyer engineer lead ' +
    'assistant coordinator supervisor specialist analyst administrator'
  ).split(' '),
)
const COMPANY_WORDS = /\b(?:inc|llc|ltd|co|corp|corporation|company|group|partners|works|gmbh|plc|limited)\b\.?$/i

function readsLikeTitle(text: string): boolean {
  const words = text.toLowerCase().split(/[\s/-]+/)
  return words.some((word) => TITLE_WORDS.has(word)) && !COMPANY_WORDS.test(text)
}

function splitOnly(text: string): [title: string, company: string] {
  const [before, after] = splitAt(text)
  const bare = /^(?:at|@)\s+(\S.*)$/i.exec(text)?.[1]
  if (bare) return ['', bare]
  if (after) return [before, after]
  return readsLikeTitle(text) ? [text, ''] : ['', text]
}

/**
 * Of several, what says "at" parts title and company; else the first is the title, and the rest, commas and all, the
 * company.
 */
function splitSeveral(parts: readonly string[]): [title: string, company: string] {
  const [first, ...others] = parts
  const [before, after] = splitAt(first!)
  if (after) return [before, [after, ...others].join(', ')]
  const company = others.join(', ')
  return [first!, /^(?:at|@)\s+(\S.*)$/i.exec(company)?.[1] ?? company]
}
