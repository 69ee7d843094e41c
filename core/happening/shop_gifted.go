package happening

import "vividporch/core/event"

// ShopGifted: something was bought for somebody else.
type ShopGifted struct{ ShopItem }

func (*ShopGifted) Type() string { return "porch.shop.gifted" }

var shopGifted = &Happening{Data: func() event.Data { return &ShopGifted{} }, Words: "a gift from the shop", Slots: []Slot{Thanks, Free},
	Numbers: []Number{itemCount[*ShopGifted](), itemAmount[*ShopGifted]()}, Texts: itemTexts[*ShopGifted](), FillIns: itemFillIns[*ShopGifted](),
	Entry: Happened(func(d *ShopGifted) string { return "gave " + d.Item + " from the shop" }),
	Book: Gave(func(d *ShopGifted) Support {
		return Support{Kind: "shop", Amount: d.Amount, Currency: d.Currency, Count: d.Quantity, What: d.Item}
	}), Owed: true}
