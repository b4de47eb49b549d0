/** Names for the arrows of a calendar, which show none. */
export const calendarLabels = {
  ariaLabels: {
    previousMonth: 'Month before',
    nextMonth: 'Month after',
    previousYear: 'Year before',
    nextYear: 'Year after',
    previousDecade: 'Ten years before',
    nextDecade: 'Ten years after',
  },
}
