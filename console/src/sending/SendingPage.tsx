import { Tabs } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { answer, api } from '../api/client'
import { AddressBook } from './AddressBook'
import { Mailbox } from './Mailbox'
import { Parcels } from './Parcels'
import { Heading } from '../parts/Heading'

/**
 * What is on its way to people and programs, the address book, and the stand-in mailbox where there is
 * one.
 */
export function SendingPage() {
  const [params, setParams] = useSearchParams()
  const letters = useQuery({
    queryKey: ['letters'],
    queryFn: () => answer(api.GET('/mailbox')),
    retry: false,
    refetchInterval: q => (q.state.data ? 10_000 : false),
  })
  return (
    <Tabs
      value={params.get('tab') ?? 'parcels'}
      onChange={tab => setParams(tab && tab !== 'parcels' ? { tab } : {})}
      color="sea.7"
      keepMounted={false}
      maw="80rem"
      mx="auto"
      pt="0.4rem"
    >
      <Heading className="unseen" title="Sending" />
      <Tabs.List mx="1.2rem">
        <Tabs.Tab value="parcels">On the way and sent</Tabs.Tab>
        <Tabs.Tab value="book">Address book</Tabs.Tab>
        {letters.data && <Tabs.Tab value="mailbox">Stand-in mailbox</Tabs.Tab>}
      </Tabs.List>
      <Tabs.Panel value="parcels">
        <Parcels opened={params.get('parcel') ?? undefined} />
      </Tabs.Panel>
      <Tabs.Panel value="book">
        <AddressBook />
      </Tabs.Panel>
      <Tabs.Panel value="mailbox">{letters.data && <Mailbox letters={letters.data} />}</Tabs.Panel>
    </Tabs>
  )
}
