import { describe, expect, it } from 'vitest'
import { emailHints, tooMuchAttached, type WrittenEmail } from '../../../core/email/hints'

const fine: WrittenEmail = {
  subject: 'The night {{ company }} drifted',
  body: 'Hello {{ first_name }},\n\nhow do you find out today?\n\nAna',
  html: null,
  bytes: 0,
}
const hintsOf = (changed: Partial<WrittenEmail>) =>
  emailHints({ ...fine, ...changed }).map(({ field, message }) => `${field}: ${message}`)

describe('what may keep an email from being read', () => {
  it('is nothing where a rep writes to one person', () => {
    expect(hintsOf({})).toEqual([])
    expect(hintsOf({ subject: 'ABC' })).toEqual([])
    expect(hintsOf({ subject: 'ROI of {{ company }}' })).toEqual([])
    expect(hintsOf({ subject: `${'x'.repeat(59)} {{ first_name | default: "there" }}` })).toEqual([])
  })
  it.each([
    [{ subject: 'LAST CHANCE TODAY' }, 'subject: All capitals'],
    [{ subject: 'Hello!!' }, 'subject: More than one exclamation mark'],
    [{ subject: 'x'.repeat(71) }, 'subject: 71 characters'],
    [{ subject: 'Re: your question' }, 'subject: “Re:”'],
    [{ body: 'Act now: a free gift. ACT NOW.' }, 'body: Filters count against it: “act now”, “free gift”'],
    [{ body: 'Yes! Yes! Yes! Yes!' }, 'body: More than three exclamation marks'],
    [{ body: ['a', 'b', 'c', 'd'].map((one) => `https://${one}.example/`).join(' ') }, 'body: 4 links'],
    [{ body: 'word '.repeat(201) }, 'body: 201 words'],
    [{ html: '<p><img src="/api/files/x"></p>', body: '' }, 'body: Mostly a picture'],
    [{ html: `<p>${'<strong>a</strong>'.repeat(6_000)}</p>` }, 'body: Over 100 kB of HTML'],
    [
      { html: '<p><a href="https://else.example/x">www.thornwick.example</a></p>' },
      'body: A link says “www.thornwick.example” and leads to “else.example”',
    ],
    [{ bytes: 3_200_000 }, 'attachments: 3.2 MB of files'],
  ])('is said of %j', (changed, expected) => {
    const hints = hintsOf(changed)
    expect(hints).toHaveLength(1)
    expect(hints[0]).toContain(expected)
  })
  it('is not said of the subject of an answer', () => {
    expect(hintsOf({ subject: 'Re: your question', isAnswer: true })).toEqual([])
  })
  it('is not said of a link that leads where it says', () => {
    expect(hintsOf({ html: '<p><a href="https://www.thornwick.example/guide">thornwick.example</a></p>' })).toEqual([])
    expect(hintsOf({ html: '<p><a href="https://thornwick.example/guide">the guide</a></p>' })).toEqual([])
  })
  it('more than 10 MB cannot go at all', () => {
    expect(tooMuchAttached(10_000_000)).toBeNull()
    expect(tooMuchAttached(12_300_000)).toBe('Attachments and pictures may come to 10.0 MB together; these are 12.3 MB')
  })
})
