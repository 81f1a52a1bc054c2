declare module 'email-providers' {
  /** Domains at which anyone can have a mail address. */
  const domains: string[]
  export default domains
}
