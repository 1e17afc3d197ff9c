package desk

import (
	"sync"
	"time"
)

// Event tells open windows what happened.
type Event struct {
	Kind     string `json:"kind" enum:"edit,progress,studies,reports,style,database" doc:"database: what is wrong with the database, nothing where what is empty; style: how pictures look changed; edit: a question is at a new revision; progress: how far long work is; studies: the list of studies changed; reports: a report of the study changed"`
	Question int64  `json:"question,omitempty"`
	Study    int64  `json:"study,omitempty" doc:"studies: the one whose setup changed, where it was one"`
	Revision int    `json:"revision,omitempty" doc:"of the question, or of the study's setup"`
	What     string `json:"what,omitempty"`
	// Since is when the database went away.
	Since *time.Time `json:"since,omitempty"`
	Done  int        `json:"done,omitempty"`
	Total int        `json:"total,omitempty"`
}

// Hub hands events to all who listen.
type Hub struct {
	mu        sync.Mutex
	listeners map[chan Event]bool
}

// NewHub has no listeners.
func NewHub() *Hub { return &Hub{listeners: map[chan Event]bool{}} }

// Listen gives a channel of events and the way to stop. A listener that does not keep up misses events.
func (h *Hub) Listen() (events <-chan Event, stop func()) {
	c := make(chan Event, 64)
	h.mu.Lock()
	defer h.mu.Unlock()
	h.listeners[c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.listeners, c)
	}
}

// Send hands an event to all listeners.
func (h *Hub) Send(e Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for c := range h.listeners {
		select {
		case c <- e:
		default:
		}
	}
}
