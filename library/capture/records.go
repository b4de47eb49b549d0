package capture

import "mantilla/store"

type Records = *store.Store
