declare module '*/scripts/processes.mjs' {
  export function endPrograms(): Promise<void>
}
declare module '*/scripts/world.mjs' {
  export function freePorts(): Promise<Record<'web' | 'replies' | 'smtp' | 'mailbox' | 'lines', number>>
  export function startWorld(options: object): Promise<{ url: string; settings: object }>
}
