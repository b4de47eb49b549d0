import { answer, api, type Address } from '../api/client'

/** Keeps an entry of the address book as it was, over what it became, if it is there still. */
export async function putBack({ nickname, name, mail, person, units, groups }: Address) {
  const now = (await answer(api.GET('/addresses'))).find(e => e.nickname === nickname)
  return answer(
    api.PUT('/addresses/{nickname}', {
      params: { path: { nickname }, header: now ? { 'If-Match': String(now.revision) } : {} },
      body: { name, mail, person, units, groups },
    }),
  )
}
