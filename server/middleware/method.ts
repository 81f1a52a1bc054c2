import { defineEventHandler, setResponseHeader } from 'h3'
import { ENDPOINTS } from '#shared/endpoints'
import { answerError } from '../http/answer'
import { Refusal } from '../services/access/errors'

/** Every address of the API as a pattern, with the methods it answers. */
const ADDRESSES = [...new Set(Object.values(ENDPOINTS).map((endpoint) => endpoint.path))].map((path) => ({
  pattern: new RegExp(`^${path.replace(/[.]/g, '\\.').replace(/\{\w+\}/g, '[^/]+')}$`),
  methods: Object.values(ENDPOINTS)
    .filter((endpoint) => endpoint.path === path)
    .map((endpoint) => endpoint.method.toUpperCase()),
}))

/** Answers a method that an address does not know (RFC 9110, 15.5.6), instead of leaving it to the pages. */
export default defineEventHandler((event) => {
  const path = event.path.split('?')[0]!
  if (!path.startsWith('/api/')) return
  const known = ADDRESSES.filter((address) => address.pattern.test(path))
  const methods = known.flatMap((address) => address.methods)
  if (!known.length || methods.includes(event.method)) return
  setResponseHeader(event, 'allow', methods.join(', '))
  return answerError(event, new Refusal('wrong_method', 'This method is not allowed here'))
})
