/** The running blog: provides the ports through which everything else reaches the definition, the database and copies. */
import { randomUUID } from 'node:crypto'
import { setTimeout } from 'node:timers/promises'
import type { DataSource } from 'typeorm'
import { ProcessFragmentStore, type DroppedCopy, type FragmentStore } from '../../core/caching/store.ts'
import type { SharedCopies } from '../../core/caching/shared-copies.ts'
import type { SourceName } from '../../core/shapes/schemas.ts'
import type {
  ChangePort,
  ClockPort,
  CommentServicePort,
  CursorKeyPort,
  DatabasePort,
  Log,
  LogPort,
  OriginsPort,
  PoolPort,
  Publishing,
  PublishPort,
  SearchPort,
  SitePort,
  StorePort,
} from '../publish/ports.ts'
import type { Problem } from '../../core/shapes/problem.ts'
import type { Site } from '../publish/site.ts'
import { Trials, type Documents } from '../publish/trials.ts'
import { poolOf, searchPoolOf, urlOf, type Queryable } from '../store/connection.ts'
import { ReadPool } from '../store/reads/read-pool.ts'
import { untilDue, type DueTime } from '../store/content/posts.ts'
import { earlierChanges, type LoggedChanges } from '../store/changes/read-log.ts'
import { untilSeenByAll } from '../store/changes/copy-processes.ts'
import { Follower } from '../store/changes/follower.ts'
import { Store, type Rehearsal } from '../store/store.ts'
import { SOURCE } from '../../core/queries/sources.ts'
import { loadDocuments, loadOtherSite } from '../publish/documents.ts'
import { NotFoundAddresses } from './addresses/not-found-addresses.ts'
import { answer, type AnswerPorts } from './answer.ts'
import { SharedLevel } from './pages/shared-level.ts'
import { Renewals } from './pages/renewals.ts'
import { internalRequest } from './request.ts'
import { temporaryKey } from './secret.ts'
import type { FragmentPort } from './page-request.ts'
import { ImageCache } from './images/image-cache.ts'
import { CommentTraining, type ScorePort } from './comments/training.ts'
import type { ImagesPort, NotFoundPort, TrafficPort, UncachedPort } from './ports.ts'
import { SteadyClock } from './steady-clock.ts'
import { Traffic } from './traffic.ts'

/** The maximum size of all copies of a process, in bytes. */
export const FRAGMENT_BYTES = 32 * 1024 * 1024
/** The maximum size of all images in memory, in bytes. */
const IMAGE_BYTES = 64 * 1024 * 1024

export interface BlogOptions {
  database: DataSource
  site: Site
  log: Log
  clock?: () => Date
  /** `off` to render every fragment for every request. */
  fragments?: FragmentStore | 'off'
  /** The store of copies that processes share. */
  sharedCopies?: SharedCopies
  /** Addresses of read replicas, which answer readers' queries. */
  replicas?: readonly string[]
  /** Runs readers' queries, instead of the database's own pool. */
  pool?: Queryable
  /** Learns from the decisions on comments; a new one by default. */
  training?: CommentTraining
  /** Signs what readers send back, instead of a key that is not stored. */
  cursorKey?: Uint8Array
  /** Under which the blog listens. More may be added once ports are known. */
  origins?: readonly string[]
  /** The origin of the built-in comment service. May be set once its port is known. */
  commentService?: string | null
}

export class Blog
  implements
    PoolPort,
    DatabasePort,
    StorePort,
    SitePort,
    PublishPort,
    ClockPort,
    LogPort,
    CursorKeyPort,
    CommentServicePort,
    OriginsPort,
    SearchPort,
    ScorePort,
    ChangePort,
    FragmentPort,
    UncachedPort,
    NotFoundPort,
    TrafficPort,
    ImagesPort
{
  readonly database: DataSource
  readonly pool: Queryable
  readonly #reads: ReadPool
  readonly #searches: ReadPool
  /** How often this process has written. */
  #writes = 0
  readonly #givenPool: Queryable | undefined
  readonly store: Store
  readonly fragments: FragmentStore
  readonly keepsFragments: boolean
  readonly traffic = new Traffic()
  readonly notFound: NotFoundAddresses
  readonly log: Log
  readonly #steady = new SteadyClock()
  /** Times of copies depend on it, so it is never set back. */
  readonly clock: () => Date
  readonly cursorKey: Uint8Array
  readonly origins: string[]
  commentService: string | null
  readonly training: CommentTraining
  #site: Site
  readonly images = new ImageCache(IMAGE_BYTES)
  readonly #watchers = new Set<(what: SourceName | 'definition') => void>()
  #trying: Trials | undefined
  readonly #processId = randomUUID()
  #follower: Follower | undefined
  #renewals: Renewals | undefined
  #due: (DueTime & { generation: number; begun: number }) | undefined
  readonly shared: SharedLevel | undefined

  constructor({
    database,
    site,
    log,
    clock,
    fragments = new ProcessFragmentStore(FRAGMENT_BYTES),
    pool,
    replicas = [],
    sharedCopies,
    cursorKey = temporaryKey(),
    origins = [],
    commentService = null,
    training,
  }: BlogOptions) {
    this.database = database
    this.#reads = new ReadPool(poolOf(database), {
      replicas,
      report: (replica, reason) => log.error({ replica, reason }, 'a read replica is not used'),
    })
    this.#searches = new ReadPool(searchPoolOf(database), { isBatching: false })
    this.pool = pool ?? this.#reads
    this.#givenPool = pool
    this.store = new Store(
      database,
      (changes) => {
        this.#writes++
        return this.#purge(changes)
      },
      (transaction) => untilSeenByAll(poolOf(database), this.#processId, transaction),
    )
    this.notFound = new NotFoundAddresses(this.pool)
    this.keepsFragments = fragments !== 'off'
    this.fragments = fragments === 'off' ? new ProcessFragmentStore(1) : fragments
    this.log = log
    this.clock = clock ?? this.#steady.now
    this.cursorKey = cursorKey
    this.origins = [...origins]
    this.commentService = commentService
    this.training = training ?? new CommentTraining(this.pool)
    this.#site = site
    this.shared = sharedCopies && new SharedLevel(sharedCopies, this)
  }

  get site(): Site {
    return this.#site
  }

  /** Returns the same blog without stored fragments, optionally with another connection, definition or clock. */
  withoutFragments(instead: Partial<Pick<BlogOptions, 'pool' | 'site' | 'clock'>> = {}): Blog {
    return this.#like({ ...instead, fragments: 'off' })
  }

  #like(instead: Partial<BlogOptions>): Blog {
    const { database, site, log, clock, cursorKey, origins, commentService, training } = this
    const pool = this.#givenPool
    return new Blog({
      database,
      site,
      log,
      clock,
      cursorKey,
      origins,
      commentService,
      training,
      ...(pool ? { pool } : {}),
      ...instead,
    })
  }

  /** Returns the same blog with another store of copies, optionally with another connection or definition. */
  withCopies(store: FragmentStore, instead: Partial<Pick<BlogOptions, 'pool' | 'site'>> = {}): Blog {
    return this.#like({ ...instead, fragments: store })
  }

  /** Activates a definition: the next request uses it. @returns the copies of parts that have changed, which are dropped */
  replaceSite(site: Site): DroppedCopy[] {
    this.#site = site
    const dropped = this.fragments.keepOnly((part, state) => site.parts.state(part) === state)
    this.#renewals?.add(dropped)
    this.#tell('definition')
    return dropped
  }

  spamScore(words: readonly string[]): number | null {
    return this.training.score(words)
  }

  /** On a given connection, such as that of a transaction, searches run there, too. */
  get searchPool(): Queryable {
    return this.#givenPool ?? this.#searches
  }

  /** Returns what answering a request uses during a rehearsal: nothing that it writes is kept, and no copies are used. */
  rehearsing({ pool, store }: Rehearsal): AnswerPorts {
    const { site, database, clock, cursorKey, log, origins, commentService, fragments, trustsCopies } =
      this.withoutFragments({ pool })
    return {
      ...{
        site,
        database,
        clock,
        cursorKey,
        log,
        origins,
        commentService,
        fragments,
        trustsCopies,
        pool,
        store,
      },
      searchPool: pool,
      keepsFragments: false,
      untilCurrent: () => undefined,
      isBehind: false,
      isDatabaseAway: false,
      purgesEdge: false,
      shared: undefined,
      nextDue: () => Promise.resolve({ at: Infinity, post: null }),
      spamScore: (words) => this.spamScore(words),
    }
  }

  /** Returns the copies that depend on changes, as if these were committed. */
  affectedCopies({ rows, readAt }: LoggedChanges): DroppedCopy[] {
    return this.fragments.affected(rows, readAt)
  }

  publishing(insist = false): Publishing {
    return {
      tryOut: (documents, current) =>
        insist ? this.#trials().read(documents) : this.#trials().render(documents, current),
      activate: (site) => this.replaceSite(site),
    }
  }

  problemsOf(documents: Documents): Promise<Problem[]> {
    return this.#trials().read(documents)
  }

  /** Starts the thread that tries definitions, and lets it build the one in force, so that the first save is quick. */
  async prepareTrials(): Promise<void> {
    const documents = await loadDocuments(this.database)
    await this.#trials().render(documents, documents)
  }

  #trials(): Trials {
    return (this.#trying ??= new Trials(urlOf(this.database)))
  }

  /** Ends what runs beside requests. */
  async stop(): Promise<void> {
    await Promise.all([this.#trying?.stop(), this.#reads.close(), this.shared?.close()])
  }

  watchChanges(tell: (what: SourceName | 'definition') => void): () => void {
    this.#watchers.add(tell)
    return () => this.#watchers.delete(tell)
  }

  #tell(what: SourceName | 'definition'): void {
    for (const tell of this.#watchers) tell(what)
  }

  /**
   * Follows what other processes and programs change, from now on. While the database is not heard from, copies are not
   * used.
   * @returns a function that stops it
   */
  async follow(): Promise<() => Promise<void>> {
    const follower = new Follower({
      url: urlOf(this.database),
      id: this.#processId,
      isOwn: (transaction) => this.store.isOwn(transaction),
      apply: (changes) => this.#applyForeign(changes),
      reading: () => {
        const writes = this.#writes
        return ({ place, snapshot, era }) => {
          this.shared?.read({ snapshot, era })
          // What this process has written since may be after that place. It is read soon.
          if (writes === this.#writes) this.#reads.need(place)
        }
      },
      clockChanged: () => {
        this.#steady.reset()
        this.fragments.clear('the clock of the computer was set')
      },
      failed: (error) =>
        this.log.error(
          { error: error instanceof Error ? error.message : String(error) },
          'changes cannot be followed',
        ),
    })
    await follower.start()
    this.#follower = follower
    // The definition and the data of copies were read before the log was followed.
    this.fragments.clear('the changes were not followed')
    if (this.shared) {
      const earlier = await earlierChanges(poolOf(this.database))
      if (earlier) this.shared.addEarlier(earlier.from, earlier.changes)
    }
    await this.#applyStored()
    return () => follower.stop()
  }

  /** Applies everything that was committed before, by whomever. */
  async catchUp(): Promise<void> {
    await this.#follower?.catchUp()
  }

  /** Whether stored fragments are used: they are kept, and a change by another process would have been noticed. */
  get trustsCopies(): boolean {
    return this.keepsFragments && (this.#follower?.isCurrent ?? true)
  }

  /**
   * Resolves once every write is seen that was acknowledged, or if the database is away; undefined if that is so already.
   * Then neither the definition nor a copy is from before one.
   */
  untilCurrent(): Promise<void> | undefined {
    const follower = this.#follower
    if (!follower || follower.isCurrent || follower.isAway) return undefined
    return Promise.race([follower.catchUp().catch(() => undefined), setTimeout(LONGEST_CATCH_UP)])
  }

  /** Whether the database is not there, as far as this process can tell. */
  get isDatabaseAway(): boolean {
    return this.#follower?.isAway ?? false
  }

  /** Whether this process may lack a write that was acknowledged, although the database is there. */
  get isBehind(): boolean {
    const follower = this.#follower
    return follower !== undefined && !follower.isCurrent && !follower.isAway
  }

  get purgesEdge(): boolean {
    return this.#follower?.purgesEdge ?? false
  }

  async #applyForeign(changes: LoggedChanges | null): Promise<void> {
    if (changes) this.#purge(changes)
    else {
      this.#reads.hold()
      this.shared?.changes.forget()
      this.fragments.clear('the changes could not be followed')
      this.images.clear()
      for (const source of Object.keys(SOURCE) as SourceName[]) this.#tell(source)
    }
    if (changes?.documents.length !== 0) await this.#applyStored()
  }

  /** Activates the stored definition, unless it is in force. */
  async #applyStored(): Promise<void> {
    const site = await loadOtherSite(this.database, this.#site.version)
    if (!site) return
    if (site.ok) this.replaceSite(site.value)
    else
      this.log.error({ problems: site.problems.slice(0, 5) }, 'the definition in the database is not valid')
  }

  /**
   * Renders purged pages again that readers keep asking for.
   * @returns a function that stops it
   */
  keepRenewed(): () => Promise<void> {
    const renewals = new Renewals((target) =>
      answer(this, internalRequest(target, { sparing: true, isBackground: true })),
    )
    this.#renewals = renewals
    return async () => {
      this.#renewals = undefined
      await renewals.stop()
    }
  }

  #purge(changes: LoggedChanges): DroppedCopy[] {
    const dropped = this.#drop(changes)
    this.#renewals?.add(dropped)
    return dropped
  }

  /** Drops what depends on committed changes. */
  #drop({ rows, isTruncated, readAt, transactions }: LoggedChanges): DroppedCopy[] {
    this.shared?.changes.add(transactions, rows, { isAnything: isTruncated, now: readAt })
    // Together with the purge: a copy that is begun after it must not be made of what was before.
    this.#reads.hold()
    for (const source of new Set(rows.map((one) => one.source))) {
      if (source === 'comments') this.training.schedule()
      if (source === 'images') this.images.clear()
      else this.#tell(source)
    }
    return isTruncated ? this.fragments.clear('a table was emptied') : this.fragments.purge(rows, readAt)
  }

  /**
   * Returns when the next scheduled post becomes due after rows were read, in milliseconds of the fragment store's clock;
   * Infinity if none is scheduled. A post that became due while they were read counts, since they may lack it.
   * @param begun the time before the first row was read, as `performance.now()` tells it
   */
  async nextDue(begun: number): Promise<DueTime> {
    const now = this.clock().getTime()
    const { generation } = this.fragments
    const known = this.#due
    if (known && known.generation === generation && known.begun <= begun && known.at > now) return known
    const asked = performance.now()
    const { milliseconds, post } = await untilDue(this.pool, asked - begun + DUE_MARGIN)
    // The database may have answered later than the margin allows for: then nothing is known.
    if (performance.now() - asked > DUE_MARGIN) return { at: now, post: undefined }
    const due = { at: now + milliseconds, post, generation, begun }
    this.#due = due
    return due
  }
}

/** How long a request waits for a reading of the log, in milliseconds. Applying a definition takes longest. */
const LONGEST_CATCH_UP = 5_000

/** The time that a request to the database may take without being noticed, in milliseconds. */
const DUE_MARGIN = 1_000
