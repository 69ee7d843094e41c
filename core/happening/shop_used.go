package happening

import "vividporch/core/event"

// ShopUsed: somebody used an item they own.
type ShopUsed struct{ ShopItem }

func (*ShopUsed) Type() string { return "porch.shop.used" }

var shopUsed = &Happening{Data: func() event.Data { return &ShopUsed{} }, Words: "an item used", Slots: []Slot{Thanks, Free},
	Numbers: []Number{itemCount[*ShopUsed]()}, Texts: itemTexts[*ShopUsed](), FillIns: itemFillIns[*ShopUsed](),
	Entry: Happened(func(d *ShopUsed) string { return "used " + d.Item }),
	Book:  Gave(func(d *ShopUsed) Support { return Support{Kind: "shop", Count: d.Quantity, What: d.Item} }), Owed: true}
