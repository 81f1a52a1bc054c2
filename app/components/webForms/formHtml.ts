import type { Form } from '#shared/api/settings/forms'

const escape = (text: string) => text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;')

/** A form as HTML for a page of one's own: it is sent to the form's address. */
export function formHtml({
  url,
  fields,
  button,
  consent,
}: Pick<Form, 'url' | 'fields' | 'button' | 'consent'>): string {
  const questions = fields.map(({ key, label, required }) => {
    const shared = `name="${key}"${required ? ' required' : ''}`
    const control = key === 'message' ? `<textarea ${shared}></textarea>` : `<input ${shared}>`
    return `  <label>${escape(label)} ${control}</label>`
  })
  const box = `  <label><input type="checkbox" name="consent" value="yes"> ${escape(consent)}</label>`
  return [
    `<form method="post" action="${escape(url)}">`,
    ...questions,
    ...(consent ? [box] : []),
    `  <button>${escape(button)}</button>`,
    '</form>',
  ].join('\n')
}
