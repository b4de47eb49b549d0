import { createContext } from 'react'

/** Opens, beside the rows, where a column's figures come from: DATASET.COLUMN. */
export const OriginContext = createContext<(column: string) => void>(() => {})
