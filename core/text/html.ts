/** Text as it stands in HTML, in content and in quoted attributes (HTML Living Standard, 13.3). */
export const escapeHtml = (text: string): string =>
  text.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/>/g, '&gt;').replace(/"/g, '&quot;')

/** The few entities that editors and sanitizers write; `&amp;` last, so that nothing is read twice. */
const ENTITIES: readonly (readonly [RegExp, string])[] = [
  [/&lt;/g, '<'],
  [/&gt;/g, '>'],
  [/&quot;/g, '"'],
  [/&#(?:39|x27);/gi, "'"],
  [/&nbsp;|\u00a0/g, ' '],
  [/&amp;/g, '&'],
]
const withoutEntities = (html: string) => ENTITIES.reduce((text, [entity, plain]) => text.replace(entity, plain), html)

/** What stands between the braces of a template's tags and outputs. */
const TAG = /\{\{[\s\S]*?\}\}|\{%[\s\S]*?%\}/g

/**
 * A template in HTML whose tags are written as in text: an editor writes
 * `{{ first_name | default: &quot;there&quot; }}` and `{% if score &gt; 3 %}`, which the template language cannot
 * read.
 */
export const withPlainTags = (template: string): string => template.replace(TAG, withoutEntities)

/** A template in HTML in which one field goes by another name; what stands in quotes stays. */
export function renameInHtml(template: string, from: string, to: string): string {
  const word = new RegExp(`\\b${from}\\b`, 'g')
  return template.replace(TAG, (tag) =>
    tag
      .split(/("[^"]*"|'[^']*'|&quot;.*?&quot;)/)
      .map((part, index) => (index % 2 ? part : part.replace(word, to)))
      .join(''),
  )
}

/** Text as paragraphs: an empty line between them, single ends of lines within. */
export const paragraphs = (text: string): string =>
  text
    .replace(/\r\n?/g, '\n')
    .split('\n\n')
    .map((part) => `<p>${escapeHtml(part).replace(/\n/g, '<br>')}</p>`)
    .join('')

/** Whether HTML is nothing but paragraphs and ends of lines, so that plain text says the same. */
export const isPlain = (html: string): boolean => !/<(?!\/?p>|br\s*\/?>)[a-z/]/i.test(html)

/** The plain text of HTML that is plain: `paragraphs` of it is that HTML again. */
export const plainText = (html: string): string =>
  html
    .replace(/<\/p>\s*<p>/gi, '\n\n')
    .replace(/<br\s*\/?>/gi, '\n')
    .replace(/<\/?p>/gi, '')
    .replace(/&lt;|&gt;|&quot;|&#(?:39|x27);|&nbsp;|\u00a0|&amp;/gi, withoutEntities)

/** Where pictures of ours stand in HTML: their addresses here, with the file's id. */
const PICTURE = /(<img\b[^>]*?\bsrc=")\/api\/files\/([0-9a-f-]{36})(")/gi

/** The files whose pictures HTML shows, each once. */
export const picturesIn = (html: string): string[] => [
  ...new Set([...html.matchAll(PICTURE)].map((match) => match[2]!.toLowerCase())),
]

/** HTML with its pictures at other addresses. */
export const withPictures = (html: string, addressOf: (fileId: string) => string): string =>
  html.replace(PICTURE, (_, before: string, id: string, after: string) => before + addressOf(id.toLowerCase()) + after)
