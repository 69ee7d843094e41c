package happening

import "vividporch/core/event"

// ShopSold: something was bought in the shop.
type ShopSold struct{ ShopItem }

func (*ShopSold) Type() string { return "porch.shop.sold" }

var shopSold = &Happening{Data: func() event.Data { return &ShopSold{} }, Words: "a sale in the shop", Slots: []Slot{Thanks, Free},
	Numbers: []Number{itemCount[*ShopSold](), itemAmount[*ShopSold]()}, Texts: itemTexts[*ShopSold](), FillIns: itemFillIns[*ShopSold](),
	Entry: Happened(func(d *ShopSold) string { return "bought " + d.Item }),
	Book: Gave(func(d *ShopSold) Support {
		return Support{Kind: "shop", Amount: d.Amount, Currency: d.Currency, Count: d.Quantity, What: d.Item}
	}), Owed: true}
