import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isPlain, paragraphs, picturesIn, plainText, renameInHtml, withPictures } from '../../../core/text/html'
import { merge, templateFaults } from '../../../core/text/merge'

describe('text and HTML', () => {
  it('plain text is the same again after it was edited as paragraphs', () => {
    const text = fc
      .array(fc.constantFrom('a', ' ', '\n', '<', '&', '"', "'", 'é', '{{ x }}', '&lt;'), { maxLength: 30 })
      .map((parts) => parts.join(''))
    fc.assert(
      fc.property(text, (given) => {
        const html = paragraphs(given)
        expect(isPlain(html)).toBe(true)
        expect(plainText(html)).toBe(given)
      }),
    )
  })
  it('formatting is not plain', () => {
    expect(isPlain('<p>One<br>two</p><p></p>')).toBe(true)
    expect(isPlain('<p>a &lt;b&gt; c</p>')).toBe(true)
    for (const html of ['<p><strong>x</strong></p>', '<ul><li>x</li></ul>', '<p>x<img src="y"></p>', '<pre>x</pre>']) {
      expect(isPlain(html)).toBe(false)
    }
  })
  it('values are written into HTML as text, whatever characters they have', () => {
    const html = '<p>Hello {{ first_name | default: &quot;there&quot; }} of {{ company }}</p>'
    const hostile = '<script>alert(1)</script> & "Sons"'
    expect(merge(html, { first_name: 'Ana', company: hostile }, 'html').text).toBe(
      '<p>Hello Ana of &lt;script&gt;alert(1)&lt;/script&gt; &amp; &quot;Sons&quot;</p>',
    )
    expect(merge(html, { company: 'Low & Sons' }, 'html')).toMatchObject({
      text: '<p>Hello there of Low &amp; Sons</p>',
      missing: [],
    })
    expect(merge(html, {}, 'html').missing).toEqual(['company'])
  })
  it('lines of a value stay lines, and conditions are read as in text', () => {
    expect(merge('<p>{{ signature }}</p>', { signature: 'Ana\nThornwick' }, 'html').text).toBe(
      '<p>Ana<br>Thornwick</p>',
    )
    const asked =
      '<p>{% if title contains &quot;Head&quot; and company != &quot;A &amp; B&quot; %}yes{% else %}no{% endif %}</p>'
    expect(templateFaults(asked, new Map(), 'html')).toEqual([])
    expect(merge(asked, { title: 'Head of cheese', company: 'C' }, 'html').text).toBe('<p>yes</p>')
    expect(merge(asked, { title: 'Head of cheese', company: 'A & B' }, 'html').text).toBe('<p>no</p>')
  })
  it('a field goes by another name everywhere but in quotes and in the text', () => {
    const html = '<p>room: {{ room | default: &quot;room&quot; }}{% if room == "room" %}{{ rooms }}{% endif %}</p>'
    expect(renameInHtml(html, 'room', 'cellar')).toBe(
      '<p>room: {{ cellar | default: &quot;room&quot; }}{% if cellar == "room" %}{{ rooms }}{% endif %}</p>',
    )
  })
  it('its pictures are found, each once, and moved', () => {
    const [a, b] = ['0b8b3c1e-0000-4000-8000-000000000001', '0b8b3c1e-0000-4000-8000-000000000002']
    const html = `<p><img src="/api/files/${a}" alt="x"><img alt="" src="/api/files/${b}"><img src="/api/files/${a}"></p>`
    expect(picturesIn(html)).toEqual([a, b])
    expect(withPictures(html, (id) => `cid:${id.slice(-1)}`)).toBe(
      '<p><img src="cid:1" alt="x"><img alt="" src="cid:2"><img src="cid:1"></p>',
    )
  })
})
