package happening

import "vividporch/core/event"

// ShopItem is a sale, a gift or a use of an item.
type ShopItem struct {
	by
	Item     string         `json:"item"`
	Quantity int64          `json:"quantity"`
	Amount   string         `json:"amount,omitempty"`
	Currency string         `json:"currency,omitempty"`
	To       []event.Person `json:"to,omitempty"`
	Message  string         `json:"message,omitempty"`
}

func (s *ShopItem) Validate() error {
	if err := event.FirstOf(s.by.Validate(), event.Filled("item", s.Item), event.AtLeast("quantity", s.Quantity, 1)); err != nil {
		return err
	}
	if s.Amount != "" || s.Currency != "" {
		return money(s.Amount, s.Currency)
	}
	return nil
}

// item is the part of a happening in the shop that is about the item.
type item interface {
	event.Data
	shopItem() *ShopItem
}

func (s *ShopItem) shopItem() *ShopItem { return s }

// itemTexts, itemFillIns and itemCount are what comes with an item, whatever is done with it.
func itemTexts[D item]() []Text {
	return []Text{TextOf("item", func(d D) string { return d.shopItem().Item })}
}

func itemCount[D item]() Number {
	return Whole("items", func(d D) int64 { return d.shopItem().Quantity })
}

func itemAmount[D item]() Number {
	return Amount(func(d D) (string, string) { s := d.shopItem(); return s.Amount, s.Currency })
}

func itemFillIns[D item]() []FillIn {
	return []FillIn{
		Says("item", "the item", "Enamel mug", func(d D) string { return d.shopItem().Item }),
		Count("items", "how many", "2", func(d D) int64 { return d.shopItem().Quantity }),
		Says("amount", "the amount with its currency", "12.50 EUR", func(d D) string {
			if s := d.shopItem(); s.Amount != "" {
				return s.Amount + " " + s.Currency
			}
			return ""
		}),
		Says("message", "what they wrote with it", "for the anemone", func(d D) string { return d.shopItem().Message }),
	}
}
