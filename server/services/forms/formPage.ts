import { isUsual, type FormFieldKey } from '#core/forms/fields'
import type { Given } from './receive'
import { TRAP } from './receive'
import type { PublicForm } from './forms'

const escape = (text: string) =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

/** What browsers fill in by themselves (WHATWG HTML, 4.10.18.7.1). */
const AUTOFILL: Partial<Record<FormFieldKey, string>> = {
  name: 'name',
  email: 'email',
  phone: 'tel',
  company: 'organization',
  title: 'organization-title',
  country: 'country-name',
  region: 'address-level1',
}
const TYPES: Readonly<Record<string, string>> = { email: 'email', phone: 'tel', date: 'date', link: 'url' }

function page(title: string, body: string, more = ''): string {
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="robots" content="noindex">${more}<title>${escape(title)}</title>
<style>
body{font:16px/1.5 system-ui,sans-serif;background:#F7F4EC;color:#1F2B27;margin:0;padding:6vh 1rem}
main{max-width:30rem;margin:0 auto}
h1{font-size:1.6rem;line-height:1.25;margin:0 0 .5rem}
p{margin:0 0 1rem;white-space:pre-line}
label,.legend{display:block;font-weight:600;margin:1rem 0 .25rem}
label.box{display:flex;gap:.6rem;font-weight:400;align-items:baseline;margin:.4rem 0}
input:not([type=checkbox]),select,textarea{box-sizing:border-box;width:100%;font:inherit;color:inherit;
background:#FFFEFA;border:1px solid #8E9A8F;border-radius:6px;padding:.55rem .7rem}
:focus-visible{outline:3px solid #C76B17;outline-offset:1px}
.wrong{color:#9C2F1B;margin:.25rem 0 0}
[aria-invalid=true]{border-color:#9C2F1B}
button{font:inherit;font-weight:600;background:#1E5B4C;color:#fff;border:0;border-radius:6px;padding:.7rem 1.3rem;
margin-top:1.4rem}
.trap{position:absolute;left:-100rem}
.optional{font-weight:400;color:#5C6862}
</style></head><body><main>${body}</main></body></html>`
}

function tickBox(name: string, value: string, label: string, isOn: boolean): string {
  const input = `<input type="checkbox" name="${name}" value="${escape(value)}"${isOn ? ' checked' : ''}>`
  return `<label class="box">${input}${escape(label)}</label>`
}

/** One question, with what was answered and what is wrong with that. */
function question(
  { key, label, required }: PublicForm['fields'][number],
  form: PublicForm,
  given: Given,
  problems: ReadonlyMap<string, string>,
): string {
  const wrong = problems.get(key) ?? problems.get(`custom.${key}`)
  const said = [given[key] ?? []].flat()
  const custom = isUsual(key) ? null : form.custom[key]!
  const id = `f-${key}`
  const shared = [
    `id="${id}" name="${key}"`,
    required && 'required',
    wrong && `aria-invalid="true" aria-describedby="${id}-wrong"`,
  ]
    .filter(Boolean)
    .join(' ')
  const value = escape(said[0] ?? '')
  const control = () => {
    if (key === 'message') return `<textarea ${shared} rows="5" maxlength="5000">${value}</textarea>`
    if (custom?.kind === 'yesNo' || custom?.kind === 'choice') {
      const choices = custom.kind === 'yesNo' ? ['yes', 'no'] : custom.choices
      const options = ['', ...choices].map(
        (choice) => `<option${said.includes(choice) ? ' selected' : ''}>${escape(choice)}</option>`,
      )
      return `<select ${shared}>${options.join('')}</select>`
    }
    const autofill = isUsual(key) && AUTOFILL[key] ? ` autocomplete="${AUTOFILL[key]}"` : ''
    const type = TYPES[custom?.kind ?? key] ?? 'text'
    return `<input ${shared} type="${type}" maxlength="500"${autofill} value="${value}">`
  }
  const optional = required ? '' : ' <span class="optional">(optional)</span>'
  const error = wrong ? `<p class="wrong" id="${id}-wrong">${escape(wrong)}</p>` : ''
  if (custom?.kind === 'choices') {
    const boxes = custom.choices.map((choice) => tickBox(key, choice, choice, said.includes(choice)))
    const legend = `<span class="legend" id="${id}">${escape(label)}${optional}</span>`
    return `<div role="group" aria-labelledby="${id}">${legend}${boxes.join('')}${error}</div>`
  }
  return `<label for="${id}">${escape(label)}${optional}</label>${control()}${error}`
}

/** The form as a page of its own, which needs no script; filled in again where something was wrong. */
export function formPage(
  form: PublicForm,
  id: string,
  given: Given = {},
  problems: ReadonlyMap<string, string> = new Map(),
): string {
  const lines = [
    `<h1>${escape(form.heading)}</h1>`,
    form.intro && `<p>${escape(form.intro)}</p>`,
    problems.size > 0 && '<p class="wrong" role="alert">Please look at what is marked below.</p>',
    '<form method="post">',
    `<input type="hidden" name="submission_id" value="${escape(id)}">`,
    ...form.fields.map((field) => question(field, form, given, problems)),
    form.consent && tickBox('consent', 'yes', form.consent, Boolean(given.consent)),
    '<div class="trap" aria-hidden="true"><label>Leave this empty',
    `<input name="${TRAP}" tabindex="-1" autocomplete="off"></label></div>`,
    `<button>${escape(form.button)}</button>`,
    '</form>',
  ]
  return page(form.heading, lines.filter(Boolean).join('\n'))
}

/** What is shown once a form was sent; the browser goes on from there where the form says so. */
export function thanksPage({ thanks, nextUrl, heading }: PublicForm): string {
  const next = nextUrl && escape(nextUrl)
  const [title, ...more] = thanks.split('\n')
  const body = [
    `<h1>${escape(title!)}</h1>`,
    more.length > 0 && `<p>${escape(more.join('\n'))}</p>`,
    next && `<p><a href="${next}">Continue</a></p>`,
  ]
  return page(
    heading,
    body.filter(Boolean).join('\n'),
    next ? `<meta http-equiv="refresh" content="2;url=${next}">` : '',
  )
}

/** What is shown where there is no such form any more. */
export const closedPage = () => page('This form is closed', '<h1>This form is closed</h1>')
/** What is shown where too much was sent, or too often. */
export const refusedPage = (why: string) => page('Not sent', `<h1>Not sent</h1><p>${escape(why)}</p>`)
