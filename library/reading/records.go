package reading

import "mantilla/store"

type Records = *store.Store
