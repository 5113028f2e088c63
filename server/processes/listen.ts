/** Listens for HTTP, with limits on what a connection may take. */
import { createServer, type Server } from 'node:http'
import type { Socket } from 'node:net'
import { getRequestListener } from '@hono/node-server'
import type { Hono } from 'hono'

export interface Listening {
  origin: string
  port: number
  close(): Promise<void>
}

/** How long a client may take for the headers and for a whole request, in milliseconds. */
const HEADERS_TIMEOUT = 10_000
const REQUEST_TIMEOUT = 120_000
/** How often slow connections are looked for, in milliseconds. */
const LOOK_FOR_SLOW = 5_000
/** Connections at the same time. */
const MOST_CONNECTIONS = 2_000

/** The maximum size of the request line and the headers together, in bytes. */
const HEADER_LIMIT = 32 * 1024

/**
 * Listens on the port, or on the next free one.
 * @param say told if another port is used; undefined if none may be
 */
export async function listen(
  app: Hono,
  host: string,
  port: number,
  say: ((line: string) => void) | undefined,
): Promise<Listening> {
  const listener = getRequestListener(app.fetch, {
    // HTTP/1.0 has no Host.
    hostname: host,
    // The request has no valid Host or address.
    errorHandler: () => new Response('Bad request', { status: 400 }),
  })
  const server = createServer(
    {
      maxHeaderSize: HEADER_LIMIT,
      headersTimeout: HEADERS_TIMEOUT,
      requestTimeout: REQUEST_TIMEOUT,
      connectionsCheckingInterval: LOOK_FOR_SLOW,
    },
    (request, response) => {
      // RFC 9112 §3.2: more than one Host field is a bad request.
      const hosts = request.rawHeaders.filter((one, index) => index % 2 === 0 && /^host$/i.test(one)).length
      if (hosts > 1) response.writeHead(400, { connection: 'close' }).end()
      else void listener(request, response)
    },
  )
  server.maxConnections = MOST_CONNECTIONS
  server.on('clientError', answerUnreadable)
  for (let attempt = port; ; attempt++) {
    try {
      await listenOn(server, host, attempt)
      if (attempt !== port && port !== 0) say?.(`Port ${port} is in use. Using ${attempt} instead.`)
      const address = server.address()
      const actual = typeof address === 'object' && address ? address.port : attempt
      return {
        origin: `http://${host.includes(':') ? `[${host}]` : host}:${actual}`,
        port: actual,
        close: () =>
          new Promise((done) => {
            server.close(() => done())
            server.closeAllConnections()
          }),
      }
    } catch (error) {
      const inUse = error instanceof Error && 'code' in error && error.code === 'EADDRINUSE'
      if (!inUse || !say || attempt >= port + 50) throw error
    }
  }
}

function listenOn(server: Server, host: string, port: number): Promise<void> {
  return new Promise((done, fail) => {
    server.once('error', fail)
    server.listen(port, host, () => {
      server.off('error', fail)
      done()
    })
  })
}

/**
 * Answers requests that Node.js cannot read: 414 for an endless address, 431 for endless headers, 408 for those that do not
 * arrive in time, otherwise 400.
 */
function answerUnreadable(
  error: NodeJS.ErrnoException & { rawPacket?: Buffer; bytesParsed?: number },
  socket: import('node:stream').Duplex,
): void {
  // Browsers open connections in advance. An answer on one would be taken for that of their next request.
  const isUnused = error.code === 'ERR_HTTP_REQUEST_TIMEOUT' && (socket as Socket).bytesRead === 0
  if (!socket.writable || error.code === 'ECONNRESET' || isUnused) {
    socket.destroy()
    return
  }
  // The packet may go on after the byte that was too much.
  const parsed = error.rawPacket?.subarray(0, error.bytesParsed)
  const inAddress = error.code === 'HPE_HEADER_OVERFLOW' && !(parsed?.includes('\r\n') ?? false)
  const status = inAddress
    ? '414 URI Too Long'
    : error.code === 'HPE_HEADER_OVERFLOW'
      ? '431 Request Header Fields Too Large'
      : error.code === 'ERR_HTTP_REQUEST_TIMEOUT'
        ? '408 Request Timeout'
        : '400 Bad Request'
  socket.end(`HTTP/1.1 ${status}\r\nConnection: close\r\nContent-Length: 0\r\n\r\n`)
}
