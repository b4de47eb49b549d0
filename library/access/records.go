package access

import "mantilla/store"

type Records = *store.Store
