package happening

// Social is what happens on the channel's social account.
type Social struct {
	by
	URL string `json:"url,omitempty"`
}
