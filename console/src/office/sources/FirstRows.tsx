import { Table } from '@mantine/core'
import type { Schemas } from '../../api/client'

/** The first rows of a file, so that what was found of it can be looked at before it is believed. */
export function FirstRows({ looked }: { looked: Schemas['LookedFile'] }) {
  return (
    <div data-first-rows>
      <p className="dim">What it seems to hold; read the declaration before you keep it.</p>
      <Table.ScrollContainer minWidth={0} type="native">
        <Table fz="xs" withTableBorder>
          <Table.Thead>
            <Table.Tr>
              {looked.columns.map((c, i) => (
                <Table.Th key={i}>{c}</Table.Th>
              ))}
            </Table.Tr>
          </Table.Thead>
          <Table.Tbody>
            {looked.rows.slice(0, 5).map((row, n) => (
              <Table.Tr key={n}>
                {looked.columns.map((_, i) => (
                  <Table.Td key={i}>{row[i]}</Table.Td>
                ))}
              </Table.Tr>
            ))}
          </Table.Tbody>
        </Table>
      </Table.ScrollContainer>
    </div>
  )
}
