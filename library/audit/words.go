package audit

// words are acts that no call of the contract is, and those that it calls by what it answers.
var words = map[string]string{
	"startService":  "Start the service",
	"changeSetting": "Start the service with another setting",
	"stopService":   "Stop the service",
	"forgetLines":   "Remove lines of the audit whose time is over",
	"sendParcel":    "Send what a run control or a person had sent",
	"runDue":        "Run a control by its timetable",
	"emptyTrash":    "Delete what was in the trash long enough",
	"trashOld":      "Put a result whose time is over into the trash",
	"deleteOld":     "Delete a result that was in the trash long enough",
	"openFigure":    "Open a figure into its rows",
	"restoreResult": "Restore the rows of a damaged result from a back-up",
	"readView":      "Read rows of a result",
	"exportView":    "Take rows of a result away as a file",
	"startExport":   "Write rows of a result to a file",
	"fetchExport":   "Take away a file that was written",
	"proveResult":   "Take away the proof of a result",
	"takeBackup":    "Take away a back-up",
	"fetchFile":     "Take away a file that was brought",
	"exportAudit":   "Take away the audit",
	"checkAudit":    "Check the audit",
	"listAudit":     "Look into the audit",
	"listReaders":   "Ask who read a result",
}

// Words are acts in words: the service's own, and those that the faces have words for.
func (room *Room) Words(of map[string]string) {
	room.mu.Lock()
	defer room.mu.Unlock()
	for act, says := range of {
		if _, own := room.words[act]; !own {
			room.words[act] = says
		}
	}
}

// Says is an act in words.
func (a *Access) Says(act string) string {
	a.room.mu.Lock()
	defer a.room.mu.Unlock()
	if says, ok := a.room.words[act]; ok {
		return says
	}
	return act
}
