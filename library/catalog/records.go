package catalog

import "mantilla/store"

type Records = *store.Store
