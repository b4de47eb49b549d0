package asking

import "mantilla/store"

type Records = *store.Store
