package sending

import "mantilla/store"

type Records = *store.Store
