package desk

import "mantilla/store"

type Records = *store.Store
