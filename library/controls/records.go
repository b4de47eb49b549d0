package controls

import "mantilla/store"

type Records = *store.Store
