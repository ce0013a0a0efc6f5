import type { Chart } from '../../api/types'

/** How the rows are to be drawn; what is not in it stays as it was chosen. Columns are named by their place. */
export interface Wish {
  kind?: Chart['kind']
  top?: number
  figure?: number
  along?: number
  colour?: number
}
