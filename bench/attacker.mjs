// A thread that attacks the blog on `workerData.port` until it is stopped, and then reports the answers by status.
import { Agent, request } from 'node:http'
import { connect } from 'node:net'
import { clearInterval, setInterval } from 'node:timers'
import { URLSearchParams } from 'node:url'
import { parentPort, workerData } from 'node:worker_threads'

const { name, port } = workerData
/** Answers by status; 0: the connection was closed. */
const counts = {}
const count = (status) => (counts[status] = (counts[status] ?? 0) + 1)
const one = () => '192.0.2.1'
const many = (n) => `10.${n % 250}.${Math.floor(n / 250) % 4}.1`

/** Sends one request and counts its answer. */
function ask({ method = 'GET', path, from, body, headers = {} }, agent) {
  return new Promise((done) => {
    const sent = request(
      { agent, port, method, path, headers: { 'x-forwarded-for': from, ...headers } },
      (response) => {
        count(response.statusCode)
        response.resume()
        response.on('close', done)
      },
    )
    sent.on('error', () => (count(0), done()))
    sent.end(body)
  })
}

const form = (fields) => ({
  method: 'POST',
  path: '/posts/moth/comments',
  body: new URLSearchParams(fields).toString(),
  headers: {
    'content-type': 'application/x-www-form-urlencoded',
    origin: `http://127.0.0.1:${port}`,
  },
})

/** Sends a number of requests each second, whether they are answered or not; at most 500 wait for an answer. */
function flood(perSecond, make) {
  const agent = new Agent({ keepAlive: true, maxSockets: 200 })
  let number = 0
  let open = 0
  setInterval(() => {
    for (let n = 0; n < perSecond / 50 && open < 500; n++) {
      open++
      void ask(make(number++), agent).then(() => open--)
    }
  }, 20)
}

/** Sends one request after the other on each connection. */
function repeat(connections, make) {
  const agent = new Agent({ keepAlive: true, maxSockets: connections })
  for (let connection = 0; connection < connections; connection++)
    void (async () => {
      for (let number = connection; ; number += connections) await ask(make(number), agent)
    })()
}

/** Opens connections, sends the start of a request on each, and a little more every second. */
function hold(connections, start, more) {
  for (let n = 0; n < connections; n++) {
    const socket = connect(port, '127.0.0.1', () => socket.write(start))
    const timer = setInterval(() => socket.write(more), 1_000)
    socket.on('data', (data) => count(data.toString('latin1').slice(9, 12)))
    socket.on('error', () => undefined)
    socket.on('close', () => (clearInterval(timer), count(0)))
  }
}

const words = Array.from({ length: 20 }, (_, n) => `kettl${String.fromCharCode(97 + n)}*`).join(' ')
const forged = (n, from) => ({ ...form({ token: `x${n}`, name: 'Eve', text: `Text ${n}` }), from })

;({
  missing: () => flood(1_000, (n) => ({ path: `/nothing/${n}`, from: one() })),
  'missing-many': () => flood(1_000, (n) => ({ path: `/nothing/${n}`, from: many(n) })),
  methods: () => flood(1_000, () => ({ method: 'PROPFIND', path: '/posts', from: one() })),
  comments: () => flood(1_000, (n) => forged(n, one())),
  'comments-many': () => flood(1_000, (n) => forged(n, many(n))),
  'large-comments': () =>
    repeat(20, (n) => ({ ...form({ token: 'x', name: 'Eve', text: 'x'.repeat(1_000_000) }), from: many(n) })),
  searches: () => repeat(12, (n) => ({ path: `/search?q=${encodeURIComponent(words)}`, from: many(n % 12) })),
  headers: () =>
    repeat(20, (n) => ({ path: '/posts', from: many(n), headers: { 'x-large': 'x'.repeat(1_000_000) } })),
  'half-open': () => hold(1_500, 'GET /posts HTTP/1.1\r\nHost: a.example\r\n', 'X-More: 1\r\n'),
  'slow-bodies': () =>
    hold(
      300,
      `POST /posts/moth/comments HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nOrigin: http://127.0.0.1:${port}\r\nContent-Type: application/x-www-form-urlencoded\r\nTransfer-Encoding: chunked\r\n\r\n`,
      '1000\r\n' + 'x'.repeat(4_096) + '\r\n',
    ),
})[name]()

parentPort.on('message', () => parentPort.postMessage(counts))
