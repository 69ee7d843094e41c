package whatif

// What made-up people are called: one of each, and a number.
var (
	before = []string{"kelp", "wrack", "limpet", "dune", "marsh", "ebb", "skerry", "moth", "heron", "tarn", "sedge", "brine", "gull", "samphire", "lantern", "shingle", "eelgrass", "whelk", "plover", "driftwood"}
	after  = []string{"walker", "lamp", "mender", "kettle", "pocket", "parade", "watch", "ladder", "june", "bell", "north", "hollow", "notes", "ferry", "clock", "garden", "ash", "tide", "weaver", "moss"}
)

// What people say as they come, and later on.
var (
	first = []string{"hello!", "good evening all", "hi everybody", "made it in time", "what is on the slide?", "that light is lovely", "evening", "hello from the train", "is this the big pool?", "tea is ready, here I am"}
	later = []string{"oh, look at that", "there it goes again", "what a colour", "which scope is this?", "I saw one of those in April", "can you go back a bit?", "it moved!", "how deep was that?", "beautiful", "that is a worm, surely",
		"mine never keep still", "so many legs", "is it asleep?", "ha", "the left one", "a bit brighter please", "thank you for showing this", "how long do they live?", "I have to get one of those lamps", "is that sand or eggs?"}
)
