package house

import (
	"strconv"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Record is the largest number of a kind that ever came with a happening.
type Record struct {
	Tonight float64 `json:"tonight,omitempty"` // in this stream; 0 for none yet
	Ever    float64 `json:"ever,omitempty"`
}

// quantities are the numbers that come with a happening, the main one first. Each
// is shown beside the largest of its kind before it.
func (s *State) quantities(data event.Data) []who.Quantity {
	var out []who.Quantity
	add := func(of, currency string, n float64) {
		r := s.Largest[recordKey(data, of, currency)]
		out = append(out, who.Quantity{Of: of, Currency: currency, N: n, Tonight: r.Tonight, Ever: r.Ever})
	}
	money := func(amount, currency string) {
		if n, err := strconv.ParseFloat(amount, 64); err == nil {
			add("amount", currency, n)
		}
	}
	switch data := data.(type) {
	case *event.RaidCame:
		add("viewers", "", float64(data.Viewers))
	case *event.RaidWent:
		add("viewers", "", float64(data.Viewers))
	case *event.ChannelShown:
		add("viewers", "", float64(data.Viewers))
	case *event.Subscribed:
		add("months", "", float64(data.Months))
	case *event.Gifted:
		add("gifts", "", float64(data.Count))
	case *event.Tipped:
		money(data.Amount, data.Currency)
	case *event.Credits:
		add("credits", "", float64(data.Amount))
	case *event.RewardClaimed:
		add("cost", "", float64(data.Cost))
	case *event.ShopSold:
		add("items", "", float64(data.Quantity))
		money(data.Amount, data.Currency)
	case *event.ShopGifted:
		add("items", "", float64(data.Quantity))
		money(data.Amount, data.Currency)
	case *event.ShopUsed:
		add("items", "", float64(data.Quantity))
	}
	return out
}

func recordKey(data event.Data, of, currency string) string {
	return data.Type() + "/" + of + "/" + currency
}

// measured keeps the records that a happening set.
func (s *State) measured(data event.Data) {
	for _, q := range s.quantities(data) {
		if q.N <= q.Tonight && q.N <= q.Ever {
			continue
		}
		if s.Largest == nil {
			s.Largest = map[string]Record{}
		}
		s.Largest[recordKey(data, q.Of, q.Currency)] = Record{Tonight: max(q.N, q.Tonight), Ever: max(q.N, q.Ever)}
	}
}

// nightfall starts tonight's records over.
func (s *State) nightfall() {
	for k, r := range s.Largest {
		r.Tonight = 0
		s.Largest[k] = r
	}
}

// fields are the texts a courtesy can ask for: those of the happening itself, or
// of another service's event under their own names, with its name as "event".
func fields(data event.Data) map[string]string {
	switch data := data.(type) {
	case *event.Subscribed:
		return map[string]string{"tier": data.Tier}
	case *event.Gifted:
		return map[string]string{"tier": data.Tier}
	case *event.Tipped:
		return map[string]string{"campaign": data.Campaign}
	case *event.RewardClaimed:
		return map[string]string{"reward": data.Reward}
	case *event.ShopSold:
		return map[string]string{"item": data.Item}
	case *event.ShopGifted:
		return map[string]string{"item": data.Item}
	case *event.ShopUsed:
		return map[string]string{"item": data.Item}
	case *event.PersonJoined:
		return map[string]string{"place": data.Place}
	case *event.Other:
		out := map[string]string{"event": data.Name}
		for k, v := range data.Fields {
			if _, taken := out[k]; !taken && v != nil {
				out[k] = housefile.FieldText(v)
			}
		}
		return out
	}
	return nil
}

// tells are the fill-ins that a happening brings of itself.
func tells(data event.Data, args wording.Args) {
	text := func(name, s string) { args.Maybe(name, wording.Str(plain.Text(s))) }
	number := func(name string, n int64) { args[name] = wording.Num(n) }
	switch data := data.(type) {
	case *event.RaidWent:
		number("viewers", data.Viewers)
	case *event.ChannelShown:
		number("viewers", data.Viewers)
	case *event.Subscribed:
		number("months", data.Months)
		text("tier", data.Tier)
	case *event.Gifted:
		number("gifts", data.Count)
		text("tier", data.Tier)
		to := ""
		if len(data.To) == 1 {
			to = plain.Name(data.To[0].Shown())
		}
		text("to", to)
	case *event.Tipped:
		text("amount", data.Amount+" "+data.Currency)
		text("message", data.Message)
	case *event.Credits:
		number("credits", data.Amount)
		text("message", data.Message)
	case *event.RewardClaimed:
		text("reward", data.Reward)
		number("cost", data.Cost)
		text("message", data.Text)
	case *event.ShopSold:
		shop(&data.ShopItem, text, number)
	case *event.ShopGifted:
		shop(&data.ShopItem, text, number)
	case *event.ShopUsed:
		shop(&data.ShopItem, text, number)
	case *event.ChatRemoved:
		text("by", data.By)
		text("reason", data.Reason)
	case *event.PersonBanned:
		text("by", data.By)
		text("reason", data.Reason)
	case *event.PersonTimedOut:
		number("seconds", data.Seconds)
		text("by", data.By)
		text("reason", data.Reason)
	case *event.PersonJoined:
		text("place", data.Place)
	case *event.Other:
		text("event", data.Name)
		for k, v := range data.Fields {
			if _, taken := args[k]; taken || v == nil {
				continue
			}
			if n, ok := v.(float64); ok {
				args.Maybe(k, wording.Value{Num: n, IsNum: true})
			} else {
				text(k, housefile.FieldText(v))
			}
		}
	}
}

func shop(item *event.ShopItem, text func(string, string), number func(string, int64)) {
	text("item", item.Item)
	number("items", item.Quantity)
	text("message", item.Message)
	if item.Amount != "" {
		text("amount", item.Amount+" "+item.Currency)
	}
}
