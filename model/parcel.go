package model

import "time"

// The states of a parcel beside waiting.
const (
	Sent   State = "sent"
	Turned State = "refused" // of a recipient
)

// Parcel is something on its way to people or programs, or that went.
type Parcel struct {
	Number     int64
	Key        string // what it is of: a parcel of a key is made once
	Way        string // mail, folder or webhook
	Target     string
	Title      string
	Owner      string
	Result     int64
	ControlRun int64
	MadeAt     time.Time
	State      State
	Tries      int
	NextAt     time.Time
	EndedAt    time.Time
	Reason     string
	Files      []Filed
	Recipients []Recipient
	Payload    []byte // only when it is to be sent
}

// Filed is a file of a parcel.
type Filed struct {
	Name  string `json:"name"`
	Bytes int    `json:"bytes"`
}

// Recipient is one recipient of a parcel with what became of it.
type Recipient struct {
	Address string
	Name    string
	Line    string // to, cc or bcc
	State   State
	Answer  string
	At      time.Time
}

// Address is an entry of the address book.
type Address struct {
	ID       int64
	Nickname string
	Name     string
	Mail     string
	Person   string   // the account it belongs to; "" for none
	Units    []string // that it stands for
	Groups   []string // names under which several are written to
	Owner    string
	Revision int64
}

// AddressChange is one change of an entry of the address book.
type AddressChange struct {
	At    time.Time
	By    string
	What  string // put or deleted
	Entry Address
}
