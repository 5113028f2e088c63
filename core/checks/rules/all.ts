/** All rules, in the order in which they run. */
import type { BrowserFacts } from '../facts.ts'
import type { Rule } from '../rule.ts'
import { conditionIdle } from './condition-idle.ts'
import { contrastLow } from './contrast-low.ts'
import { pageInaccessible } from './page-inaccessible.ts'
import { pageOverflows } from './page-overflows.ts'
import { scriptFails } from './script-fails.ts'
import { listRepeats } from './list-repeats.ts'
import { linkParameterUnknown } from './link-parameter-unknown.ts'
import { textNotShown } from './text-not-shown.ts'
import { monthMisnamed } from './month-misnamed.ts'
import { errorMisplaced } from './error-misplaced.ts'
import { feedElsewhere } from './feed-elsewhere.ts'
import { scriptNameUnknown } from './script-name-unknown.ts'
import { structuredDataWrong } from './structured-data-wrong.ts'
import { termsCut } from './terms-cut.ts'
import { linkToItself } from './link-to-itself.ts'
import { assetWithoutEffect } from './asset-without-effect.ts'
import { templateArgumentWrong } from './template-argument-wrong.ts'
import { markdownAsTyped } from './markdown-as-typed.ts'
import { headingMissing } from './heading-missing.ts'
import { attributeWrong } from './attribute-wrong.ts'
import { honeypotNoticed } from './honeypot-noticed.ts'
import { listNarrowed } from './list-narrowed.ts'
import { languageWrong } from './language-wrong.ts'
import { listEmpty } from './list-empty.ts'
import { markupRepeated } from './markup-repeated.ts'
import { slugCompared } from './slug-compared.ts'
import { styleHidesText } from './style-hides-text.ts'
import { addressBuildFails } from './address-build-fails.ts'
import { categoryEmpty } from './category-empty.ts'
import { commentActionWithoutPage } from './comment-action-without-page.ts'
import { commentFormUnanswered } from './comment-form-unanswered.ts'
import { commentUnescaped } from './comment-unescaped.ts'
import { commentsOfAnotherPost } from './comments-of-another-post.ts'
import { commentsShownUnapproved } from './comments-shown-unapproved.ts'
import { noRateLimit } from './no-rate-limit.ts'
import { commentsUnbounded } from './comments-unbounded.ts'
import { ageTextInKeptPart } from './age-text-in-kept-part.ts'
import { copyNeverUsed } from './copy-never-used.ts'
import { copyOutlivesChange } from './copy-outlives-change.ts'
import { copyVariesTooMuch } from './copy-varies-too-much.ts'
import { keyGrowsWithoutBound } from './key-grows-without-bound.ts'
import { draftListed } from './draft-listed.ts'
import { draftReachable } from './draft-reachable.ts'
import { htmlRemoved } from './html-removed.ts'
import { imageMissing } from './image-missing.ts'
import { internalLinkDead } from './internal-link-dead.ts'
import { linkUnmatched } from './link-unmatched.ts'
import { redirectLoop } from './redirect-loop.ts'
import { listingUnbounded } from './listing-unbounded.ts'
import { markupInvalid } from './markup-invalid.ts'
import { markupUnnamed } from './markup-unnamed.ts'
import { noIndexForOrder } from './no-index-for-order.ts'
import { oneWithoutNotFound } from './one-without-not-found.ts'
import { orderNotTotal } from './order-not-total.ts'
import { pageFails } from './page-fails.ts'
import { pageParameterShared } from './page-parameter-shared.ts'
import { queryPerRow } from './query-per-row.ts'
import { queryUnused } from './query-unused.ts'
import { routeNeverReached } from './route-never-reached.ts'
import { routeParameterMissing } from './route-parameter-missing.ts'
import { routeParameterUnused } from './route-parameter-unused.ts'
import { routesOverlap } from './routes-overlap.ts'
import { slugChangedNoRedirect } from './slug-changed-no-redirect.ts'
import { slugHiddenByRoute } from './slug-hidden-by-route.ts'
import { slugNotCanonical } from './slug-not-canonical.ts'
import { dataUnread } from './data-unread.ts'
import { templateNameUnknown } from './template-name-unknown.ts'
import { templateFieldUnknown } from './template-field-unknown.ts'
import { templateFieldNotFetched } from './template-field-not-fetched.ts'
import { templateListAndRow } from './template-list-and-row.ts'
import { templateValueEmpty } from './template-value-empty.ts'
import { templateDateUnformatted } from './template-date-unformatted.ts'
import { templateArgumentUnread } from './template-argument-unread.ts'
import { templateBlockUnknown } from './template-block-unknown.ts'
import { templateUnused } from './template-unused.ts'
import { assetInvalid } from './asset-invalid.ts'
import { resourceBroken } from './resource-broken.ts'
import { linkBroken } from './link-broken.ts'
import { addressUnlinked } from './address-unlinked.ts'
import { termEmpty } from './term-empty.ts'
import { titleDuplicate } from './title-duplicate.ts'
import { htmlEscaped } from './html-escaped.ts'
import { policyBlocks } from './policy-blocks.ts'
import { redirectNowhere } from './redirect-nowhere.ts'
import { relatedIncludesItself } from './related-includes-itself.ts'
import { listingCut } from './listing-cut.ts'
import { listingSameEverywhere } from './listing-same-everywhere.ts'
import { orderMissing } from './order-missing.ts'
import { pagerWrong } from './pager-wrong.ts'
import { templateAttributeUnquoted } from './template-attribute-unquoted.ts'
import { threadSplitByAddress } from './thread-split-by-address.ts'
import { headIncomplete } from './head-incomplete.ts'
import { orderWrong } from './order-wrong.ts'
import { anchorMissing } from './anchor-missing.ts'
import { linkElsewhere } from './link-elsewhere.ts'
import { countDiffers } from './count-differs.ts'
import { timeUnreadable } from './time-unreadable.ts'
import { formWrong } from './form-wrong.ts'
import { templateFilterFails } from './template-filter-fails.ts'
import { templateDateFormat } from './template-date-format.ts'
import { templateSlugExpected } from './template-slug-expected.ts'
import { commentsNotShown } from './comments-not-shown.ts'
import { commentReplyLost } from './comment-reply-lost.ts'
import { commentFormWhenClosed } from './comment-form-when-closed.ts'
import { commentLengthDiffers } from './comment-length-differs.ts'
import { commentLinkFollowed } from './comment-link-followed.ts'
import { styleIgnored } from './style-ignored.ts'
import { focusHidden } from './focus-hidden.ts'
import { templateMarkupUnnested } from './template-markup-unnested.ts'
import { securityTxtExpired } from './security-txt-expired.ts'
import { rowsNotShown } from './rows-not-shown.ts'
import { termLacksPost } from './term-lacks-post.ts'
import { templateCommentAsTyped } from './template-comment-as-typed.ts'
import { templatePageCounted } from './template-page-counted.ts'
import { templatePrintWrong } from './template-print-wrong.ts'
import { currentWrong } from './current-wrong.ts'
import { imageUnsized } from './image-unsized.ts'
import { scriptFindsNothing } from './script-finds-nothing.ts'

export const RULES: readonly Rule[] = [
  pageFails,
  markupInvalid,
  markupUnnamed,
  attributeWrong,
  markupRepeated,
  listEmpty,
  templateMarkupUnnested,
  templateNameUnknown,
  templateFieldUnknown,
  templateFieldNotFetched,
  templateListAndRow,
  templateValueEmpty,
  templateDateUnformatted,
  templateDateFormat,
  templateFilterFails,
  templateCommentAsTyped,
  templatePageCounted,
  templatePrintWrong,
  templateSlugExpected,
  templateArgumentUnread,
  templateArgumentWrong,
  templateBlockUnknown,
  templateAttributeUnquoted,
  assetInvalid,
  styleIgnored,
  styleHidesText,
  assetWithoutEffect,
  focusHidden,
  resourceBroken,
  linkBroken,
  linkElsewhere,
  linkToItself,
  anchorMissing,
  formWrong,
  headIncomplete,
  headingMissing,
  structuredDataWrong,
  feedElsewhere,
  timeUnreadable,
  currentWrong,
  listRepeats,
  monthMisnamed,
  linkParameterUnknown,
  textNotShown,
  imageUnsized,
  scriptFindsNothing,
  scriptNameUnknown,
  htmlEscaped,
  policyBlocks,
  pagerWrong,
  draftReachable,
  draftListed,
  routeNeverReached,
  slugHiddenByRoute,
  redirectLoop,
  redirectNowhere,
  securityTxtExpired,
  addressBuildFails,
  linkUnmatched,
  slugChangedNoRedirect,
  routeParameterMissing,
  routeParameterUnused,
  routesOverlap,
  oneWithoutNotFound,
  listingUnbounded,
  commentUnescaped,
  commentsShownUnapproved,
  commentFormUnanswered,
  commentActionWithoutPage,
  commentsOfAnotherPost,
  commentsNotShown,
  commentReplyLost,
  commentFormWhenClosed,
  commentLengthDiffers,
  errorMisplaced,
  honeypotNoticed,
  commentLinkFollowed,
  noRateLimit,
  threadSplitByAddress,
  commentsUnbounded,
  copyOutlivesChange,
  ageTextInKeptPart,
  keyGrowsWithoutBound,
  copyVariesTooMuch,
  copyNeverUsed,
  conditionIdle,
  listingSameEverywhere,
  listingCut,
  listNarrowed,
  termsCut,
  relatedIncludesItself,
  slugCompared,
  orderMissing,
  orderWrong,
  countDiffers,
  termLacksPost,
  rowsNotShown,
  orderNotTotal,
  queryPerRow,
  pageParameterShared,
  noIndexForOrder,
  queryUnused,
  dataUnread,
  templateUnused,
  languageWrong,
  htmlRemoved,
  markdownAsTyped,
  imageMissing,
  internalLinkDead,
  addressUnlinked,
  titleDuplicate,
  termEmpty,
  categoryEmpty,
  slugNotCanonical,
]

/** The rules that look at pages in a browser. They run on request. */
export const BROWSER_RULES: readonly Rule<BrowserFacts>[] = [
  contrastLow,
  pageInaccessible,
  pageOverflows,
  scriptFails,
]
