// The shapes of the HTTP contract by the names that the console uses. What they hold is made: see contract.ts.
import type { CatalogShape, CheckShape, CoverageShape, ExampleShape, InquiryEntry, ModelLine, ResultTable, ScanShape, SourceLine, UsageReport } from './contract'

export type { Attempt, Casebook, CasebookAnswer, CasebookLine, CasebookVersion, CatalogColumn, CatalogTable, Chart, ChatCode, ChatLine, ChatLink, DocumentShape, Drawing, Finding, Inquiry, InquiryLine, Lasting, Me, ModelCheck, OpenLink, OpenLinkMade, ReadLine, Removal, ResultColumn, ResultTable, SecondOpinion, Sending, ShownAnswer, UnderstoodPart, UsageLine, Watch } from './contract'
export type Catalog = CatalogShape
export type Cell = ResultTable['rows'][number][number]
export type Check = CheckShape
export type Coverage = CoverageShape
export type Example = ExampleShape
export type Model = ModelLine
export type Scan = ScanShape
export type Source = SourceLine
export type Usage = UsageReport
export type TrailEvent = InquiryEntry

export interface Page<T> {
  items: T[]
  next: string | null
}
