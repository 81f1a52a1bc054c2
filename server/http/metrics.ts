import { collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client'
import type { Endpoint } from '#shared/api/endpoint'
import { readHealth } from '../services/system/health'

const registry = new Registry()
collectDefaultMetrics({ register: registry })

const requests = new Histogram({
  name: 'uphill_request_seconds',
  help: 'How long requests took, by method, route and status',
  labelNames: ['method', 'route', 'status'] as const,
  buckets: [0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30],
  registers: [registry],
})

const gauge = (name: string, help: string) => new Gauge({ name: `uphill_${name}`, help, registers: [registry] })
const gauges = {
  ready: gauge('ready', '1 when ready, 0.5 when degraded, 0 when down'),
  agendaLag: gauge('agenda_lag_seconds', 'How late the oldest due step is'),
  emailsWaiting: gauge('emails_waiting', 'Emails that are due and have not been sent'),
  emailsUnknown: gauge('emails_delivery_unknown', 'Emails of which nobody knows whether they were delivered'),
  setAside: gauge('set_aside', 'Work that failed three times and waits for a person'),
  workers: gauge('workers', 'Worker processes that are alive'),
}

/** Notes how a request went. `ms` is its time in milliseconds. */
export function observeRequest(endpoint: Pick<Endpoint, 'method' | 'path'>, status: number, ms: number): void {
  requests.observe({ method: endpoint.method, route: endpoint.path, status: String(status) }, ms / 1_000)
}

/** Everything that is measured, in Prometheus' text format (version 0.0.4), with its content type. */
export async function readMetrics(): Promise<{ contentType: string; text: string }> {
  const health = await readHealth()
  gauges.ready.set({ ready: 1, degraded: 0.5, down: 0 }[health.status])
  gauges.agendaLag.set(health.scheduledActionLagMs / 1_000)
  gauges.emailsWaiting.set(health.emailsWaiting)
  gauges.emailsUnknown.set(health.emailsUnknown)
  gauges.setAside.set(health.setAside)
  gauges.workers.set(health.workers)
  return { contentType: registry.contentType, text: await registry.metrics() }
}
