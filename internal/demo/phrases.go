package demo

// topic is something respondents talk about, with the ways they put it. {…} is filled from slots.
type topic struct {
	name  string
	lines []string
}

// slots are what varies within a line.
var slots = map[string][]string{
	"port":  {"Orrin", "Sandle", "Larkmoor", "Tarn Point", "Sandle pier", "the Orrin side"},
	"boat":  {"the Gannet", "the Sea Thrift", "the Orrin Star", "the Merganser", "the old boat", "the big boat", "the morning boat"},
	"day":   {"Friday", "Monday", "Saturday", "Sunday night", "bank holiday Monday", "every single Friday", "last Tuesday"},
	"time":  {"6.40", "7am", "the 07:15", "8.30", "9pm", "the 17.50", "half five", "10am"},
	"min":   {"20 minutes", "40 mins", "half an hour", "45min", "an hour", "over an hour", "an hour and a half", "25 minutes", "ages"},
	"n":     {"two", "three", "4", "six", "12", "forty", "60"},
	"price": {"£4.20", "£3.80", "£6", "a fiver", "£7.50", "six quid"},
	"fare":  {"£38", "£12", "twenty quid", "£64", "15 %", "a tenner"},
	"bad":   {"awful", "hopeless", "a disgrace", "a joke", "shocking", "not good enough", "really poor", "a nightmare", "the worst part", "ridiculous", "beyond a joke", "dreadful"},
	"good":  {"lovely", "wonderful", "the best bit", "brilliant", "really nice", "a treat", "great", "magic", "superb", "so good"},
	"who":   {"my wife", "my mum", "my husband", "my daughter", "my gran", "our youngest", "a friend"},
	"deck":  {"deck 2", "deck 3", "the aft lounge", "the forward lounge", "the top deck", "the quiet lounge", "the stairwell"},
	"dog":   {"dog", "spaniel", "old labrador", "two dogs", "terrier", "puppy"},
}

// changes are the topics of "What one thing should we change about your crossing?".
var changes = []topic{
	{"Delays", []string{"the delays are {bad}", "{time} boat is {bad}, never once on time", "being late is normal here, {min} today", "I allow {min} extra now because you're always late",
		"it was {min} late again", "the boat is never on time", "stop leaving late, I miss my connection every week", "we sat at {port} for {min} and nobody said why",
		"{time} left at quarter past, third time this month", "fewer delays please", "just run to the timetable", "delayed {min} and not one word of explanation", "punctuality. that's all I ask",
		"late late late", "{boat} is always late on a {day}", "I'd like to get to work on time for once", "the timetable is a work of fiction", "you were {min} behind and blamed the tide", "reliability, you can't plan anything round this service",
		"be on time", "when it's late tell us how late", "departures keep slipping, {min} on {day} alone", "sort the delays out before you put the fares up"}},
	{"Cancellations", []string{"the cancellations are {bad}", "three sailings cancelled on {day}",
		"{time} was cancelled with no warning", "cancelled twice in one week", "stop cancelling the last boat", "they cancelled and we had to find a bed in {port}", "when you cancel a sailing put on another one",
		"cancellations, I lost a day's pay", "a bit of swell and everything is called off", "text us before you cancel not after", "my sailing got cancelled and the refund took six weeks", "too many cancelled crossings since the summer",
		"told at the gate it wasn't running", "cancelled for weather when it was flat calm??"}},
	{"Queues", []string{"the queues at {port} are {bad}", "queue for foot passengers is {bad}", "{min} in a queue for a crossing that takes less", "stood waiting on the quay {min}",
		"the queue for cars goes back to the roundabout", "queuing {min} in the rain to board", "shorter queues at {port}", "sort the line at the ticket window, one person serving", "foot passengers left standing in line outside while the lounge is empty",
		"we were in the queue {min} before anything moved", "boarding takes forever", "tailbacks all the way up the hill on {day}", "too long a wait to get on", "waiting at the barrier for {min} with no idea why", "why do {n} cars have to be in line an hour before",
		"quicker boarding", "the wait", "queues queues queues", "board foot passengers first, we stood there {min}", "a long wait at {port} with screaming kids in the back", "there's one scanner for the whole boat so of course there's a queue", "stuck in a line of lorries for {min}"}},
	{"Car deck order", []string{"loading the car deck is {bad}", "car deck was {bad}, nobody directing anyone",
		"load the cars by booking number", "we were first on and last off, how is that fair", "vans first then cars would be so much quicker", "the car deck is so tight you can't open a door", "parked nose to tail on the car deck, climbed out of the boot",
		"the way they load the deck makes no sense", "got blocked in by a lorry on the car deck", "more room between cars", "unloading takes longer than the crossing", "my mirror got clipped on the car deck and no one cared", "tell us which lane gets off first"}},
	{"Signs and lanes", []string{"no signs at {port}, ended up in the freight lane", "mark the lanes properly", "the signs are wrong, lane 3 is not lane 3", "I couldn't find where foot passengers go", "better signposting from the main road", "sent to the wrong lane twice",
		"the lane numbers have worn off", "signs for the toilets would help too", "you can't see the lane markings in the dark", "we missed the turning, the sign is behind a tree"}},
	{"Food prices", []string{"prices in the cafe are {bad}", "the price of food is {bad}", "{price} for crisps and a drink",
		"{price} for a coffee is a joke", "the cafe prices", "cheaper food on board", "food is way too expensive", "{price} for a sandwich, really?", "you charge {price} for a cup of tea because you know we can't go anywhere else",
		"bring the café prices down", "a family lunch cost us more than the tickets", "overpriced chips", "coffee shouldn't cost {price}", "food and drink costs too much", "a locals' discount in the cafe would be nice"}},
	{"Food quality", []string{"the food was {bad}", "coffee is {bad}", "sandwiches were {bad}",
		"the tea was cold", "stale sandwiches", "hot food that's actually hot", "the coffee tastes of the machine", "something vegetarian that isn't a cheese roll", "the café shut {min} before we docked", "cafe ran out of milk on {boat}",
		"nothing gluten free", "soggy chips, grey burger", "more choice of food, my kids won't eat any of it", "get proper coffee", "the cafe closes far too early", "no breakfast after 9, on a {time} sailing", "fresh fruit would be good", "bring back the bacon rolls"}},
	{"Toilets", []string{"the toilets are {bad}", "state of the loos is {bad}", "ladies toilet on {deck} was {bad}",
		"the toilets were filthy", "clean the loos", "no paper in the ladies on {deck}", "one toilet working for the whole boat", "loos were flooded", "the smell from the toilets reaches {deck}", "more toilets please", "the gents was out of order again",
		"someone needs to check the toilets more than once a day", "baby change is in a broken toilet", "no soap, no towels, no lock", "toilets!!", "disgusting loos"}},
	{"Wifi", []string{"the wifi is {bad}", "wifi {bad} as ever on {boat}",
		"the wifi never works", "wifi is useless past the breakwater", "wi-fi that lasts the whole crossing", "free wifi that actually connects", "I need the internet to work and it drops every five minutes", "no signal and no wifi for {min}",
		"faster wifi", "the internet", "wifi asks you to log in {n} times", "can't join the wi fi on {deck}", "get the wifi sorted", "paid for premium wifi and got nothing"}},
	{"Noise", []string{"the noise in {deck} is {bad}", "noise from the screens is {bad}",
		"turn the TV off in {deck}", "too noisy, the slot machines beep all the way", "a quiet area that is quiet", "screens blaring the same advert over and over", "music is far too loud in the bar", "the engine noise on {deck} is awful",
		"people on phones in the quiet lounge", "can't hear yourself think", "fewer screens, we came for the sea", "stag parties in the bar shouting from {time}", "noise"}},
	{"More sailings", []string{"a later boat back from {port}", "more sailings at the weekend", "put on an extra boat on {day}", "a sailing before {time}", "the winter timetable is far too thin", "we need a last boat after ten", "more crossings in summer", "why is there a four hour gap in the middle of the day",
		"an earlier one so I can get to the hospital", "run it hourly", "add another boat at peak times", "more frequent service", "two boats a day is not a service"}},
	{"Bus and train links", []string{"the bus link at {port} is {bad}", "trains and boats never meet, it's {bad}",
		"the bus leaves five minutes before we dock", "wait for the train, it's in sight!", "join up the bus and the boat", "no bus at {port} after six", "the bus42 never meets the boat", "a shuttle to the station", "missed the train because the bus didn't wait", "connections to the trains are hopeless",
		"a through ticket with the bus"}},
	{"Fares", []string{"the fares are {bad}", "{fare} each way is {bad}",
		"fares have gone up again", "it's {fare} more than last year for the same boat", "too expensive for islanders", "the cost of taking a car is shocking", "family ticket that works for {n} kids", "season tickets should be cheaper", "cheaper tickets for locals", "we pay more per mile than a flight",
		"price of the crossing", "concessions for carers", "the fare for a van is daylight robbery", "stop the peak surcharge on {day}", "value for money is poor"}},
	{"Rude staff", []string{"the man on the ramp was so rude", "staff barked at us like sheep", "train your staff to say good morning", "the crew ignored us", "got shouted at for parking where I was told to park", "rude woman at the ticket desk", "staff couldn't care less", "the deck hands swear at people",
		"a bit of courtesy from the crew", "unfriendly staff in the cafe", "not one smile from the staff"}},
	{"Help from staff", []string{"more staff when it's busy", "couldn't find a member of staff anywhere", "nobody about to help with the buggy", "staff didn't know the answer to anything", "no crew to ask on {deck}", "someone at {port} to tell foot passengers where to go", "more crew on the car deck to guide people"}},
	{"Announcements", []string{"the announcements are {bad}", "sound on the tannoy is {bad}",
		"you can't hear the announcements in {deck}", "the tannoy is just crackle", "announcements too loud at 5am in the cabin", "could not make out a word on the tannoy", "say it in more than one language", "no announcement so we nearly missed getting back to the car", "announce where we are when it's foggy",
		"less shouting over the tannoy", "a bell before the car deck opens, nobody heard anything"}},
	{"Dogs", []string{"what you offer dogs is {bad}", "my {dog} had to stand {min}",
		"somewhere decent for the {dog}", "dogs have to stay in the car and it gets hot", "a proper pet lounge", "keep dogs off the seats", "let me bring the {dog} inside, he's scared of the car deck", "water bowls for dogs", "dogs everywhere, one was sick on {deck}", "my {dog} isn't allowed anywhere warm",
		"more pet cabins", "owners should clean up after their dogs"}},
	{"App and website", []string{"the app is {bad}", "your website is {bad}", "booking online is {bad}",
		"the app crashed with my ticket in it", "the app logs me out every time", "website won't take my card", "let me change a booking in the app", "can't find my booking online", "the booking site is from another century", "app says on time when the boat has gone", "login never works", "print your own ticket doesn't work on a phone",
		"the QR code won't scan in the sun", "a simpler app", "took {n} goes to book online"}},
	{"Parking", []string{"parking at {port} is {bad}", "the car park is {bad}",
		"more parking at {port}", "the car park is full by {time}", "{fare} a day to park is a disgrace", "nowhere to leave the car", "parking", "the car park floods", "got a parking fine while waiting for your late boat", "disabled spaces full of vans", "longer free parking for dropping people off"}},
	{"Access", []string{"getting {who} on board is {bad}", "wheelchair access at {port} is {bad}",
		"no lift for wheelchairs at {port}", "the ramp is too steep for {who}", "lift was out of order again", "a ramp that isn't like ice when wet", "{who} can't manage the stairs from the car deck", "wheelchair space was full of suitcases", "help for disabled passengers is a lottery", "handrails on both sides of the gangway", "steps. too many steps for {who}"}},
	{"Seats", []string{"the seats on {boat} are {bad}",
		"more seats", "the seats are ripped", "not enough seating on a {day}", "comfier chairs, I've a bad back", "bags on every seat and people standing", "let us book a seat", "sat on the floor by {deck}", "seats that don't face the bins", "reclining seats like {boat} used to have"}},
	{"Sockets", []string{"somewhere to charge a phone", "plug sockets that work", "one socket for the whole lounge", "usb sockets by the seats", "power at the tables so I can work", "charging points for phones", "sockets have no power, I asked"}},
	{"Temperature", []string{"it was freezing in {deck}", "turn the heating down", "the lounge is like an oven", "air con blowing on us all the way", "too cold outside and too hot inside", "heating broken on {boat} again", "shelter on the open deck"}},
	{"Luggage", []string{"racks for bikes and bags", "nowhere to put a suitcase", "luggage trolley at {port}", "our bags got soaked on the trolley", "bike spaces always full"}},
	{"Children", []string{"the play area is tiny and dirty", "something for kids to do", "soft play was shut", "crayons, anything, {n} hours with toddlers is long", "family area away from the bar"}},
	{"Cleanliness", []string{"tables sticky all the way over", "wipe the tables", "rubbish on {deck} from the trip before", "windows so dirty you can't see out", "carpet stinks", "bins overflowing by {time}", "give the whole boat a good clean"}},
	{"Fumes", []string{"diesel fumes on {deck}", "smokers by the door", "stop lorries running their engines on the car deck", "the exhaust blows right over the top deck"}},
}

// nothings say that nothing should change.
var nothings = []string{"nothing", "nothing really", "nothing!!", "none", "no change needed", "leave it as it is", "can't think of anything", "nothing to change, all good", "it was fine as it was", "don't change a thing", "happy with it", "nothing at all"}

// joys are the topics of "What did you enjoy?".
var joys = []topic{
	{"Views", []string{"the view from {deck} was {good}", "coming past the cliffs was {good}", "coast looked {good}",
		"the view coming into {port}", "the views from the top deck", "sunset over the sound", "seeing the islands come up out of the mist", "scenery", "lovely views", "standing at the rail watching the coast go by", "the light on the water", "beautiful scenery all the way", "the lighthouse going past"}},
	{"Wildlife", []string{"dolphins off {port}, {good}", "seeing a seal was {good}", "birdwatching from {deck}",
		"we saw dolphins", "seals at {port}", "puffins!", "the kids saw a whale, or so they say", "watching the gannets dive", "porpoises right beside the boat", "all the seabirds", "spotting seals with {who}"}},
	{"Friendly crew", []string{"the crew were {good}", "staff on {boat} are {good}", "how the staff looked after {who}",
		"the crew were so kind to {who}", "friendly staff", "the lad on the ramp was cheerful and helpful", "staff couldn't do enough for us", "lovely woman in the cafe", "helpful crew", "the crew know my name", "someone carried the pram up, so kind", "staff were great with the kids", "the captain waved at us"}},
	{"Food and drink", []string{"the breakfast was {good}", "food was {good}", "the coffee was {good}",
		"the bacon roll", "a proper cup of tea", "good coffee for once", "fish and chips on deck", "the soup was delicious", "breakfast was really good", "cake from the café", "a pint in the bar", "food was tasty and hot"}},
	{"Calm", []string{"{min} of quiet, {good}", "having a nap in {deck}",
		"a bit of peace", "I slept all the way", "an hour with nobody asking me for anything", "the quiet", "reading my book", "so relaxing", "calm sea and a nap", "time to think", "it's my only quiet hour of the day"}},
	{"Quick and on time", []string{"it was on time, {good}", "boarding was quick, {good}",
		"it left on time", "quick and easy", "on time for once", "no queue at all", "straight on and straight off", "smooth boarding", "arrived early!", "fast turnaround at {port}"}},
	{"Deck and fresh air", []string{"the fresh air was {good}", "sitting out on the top deck, {good}",
		"fresh air", "wind in my hair on {deck}", "sitting outside", "sea air", "being out on deck with the {dog}", "salt spray and sunshine"}},
	{"Fun for children", []string{"the kids loved the play area", "face painting", "our youngest got to see the bridge", "the treasure hunt for children", "kids had a ball"}},
	{"Comfort", []string{"comfy seats", "the cabin was warm and clean", "plenty of room", "a seat by the window", "clean toilets, what a surprise", "new seats on {boat} are great"}},
	{"Good value", []string{"cheap day out", "good value with the family ticket", "cheaper than I thought", "kids go free"}},
	{"Shop", []string{"the little shop", "bought a nice print of {boat}", "the shop has good books"}},
}

var noJoys = []string{"nothing", "nothing much", "not a lot", "getting off", "none of it", "the end of it", "can't say I enjoyed it"}

// voice is how a kind of passenger talks, and what about.
type voice struct {
	name             string
	share            float64
	openers, closers []string
	glad             []string // how they begin or end with what they liked
	tickets          []string
	ages             []string
	changes, joys    map[string]float64 // how much more often than others they bring a topic up
	ramble, shout    float64
}

var voices = []voice{
	{name: "Commuter", share: 0.27, tickets: []string{"Season", "Season", "Ten-trip", "Single"}, ages: []string{"18-24", "25-34", "35-44", "45-54", "55-64"}, ramble: 0.15, shout: 0.08,
		glad:    []string{"for once,", "makes the day bearable", "I needed that", "on a good day:", "believe it or not,"},
		openers: []string{"I do this trip every day:", "season ticket holder here.", "same as last time:", "honestly,", "third year running now:", "every morning it's the same,", "look,", "some of us work for a living,", "I have said this before:"},
		closers: []string{"and I'm late for work because of it", "sort it out", "every week", "it's not rocket science", "we pay enough", "simple as that", "again", "I've emailed twice"},
		changes: map[string]float64{"Delays": 5, "Cancellations": 3, "Wifi": 3, "Bus and train links": 4, "Sockets": 3, "Parking": 2.5, "App and website": 2, "Children": 0.1, "Dogs": 0.2},
		joys:    map[string]float64{"Calm": 4, "Quick and on time": 3, "Food and drink": 1.5, "Wildlife": 0.3, "Fun for children": 0.1}},
	{name: "Islander", share: 0.22, tickets: []string{"Islander", "Islander", "Ten-trip", "Day return"}, ages: []string{"18-24", "35-44", "45-54", "55-64", "65+", "65+"}, ramble: 0.3, shout: 0.05,
		glad:    []string{"as always,", "that is home", "thank you all", "after a long day in town,", "never gets old"},
		openers: []string{"for those of us who live here:", "as an islander, one thing:", "we depend on this boat,", "it's our road to the mainland.", "with respect,", "my family has used this boat for forty years.", "worse in winter:", "a day out for visitors, a lifeline for us."},
		closers: []string{"it is a lifeline after all", "ask the people who live here", "we've been saying so for years", "thank you", "and the hospital won't wait", "the old company managed it", "nobody listens"},
		changes: map[string]float64{"Cancellations": 3.5, "More sailings": 4, "Fares": 4, "Bus and train links": 1.5, "Access": 2.5, "Food quality": 0.5, "Signs and lanes": 0.2},
		joys:    map[string]float64{"Friendly crew": 3, "Calm": 2, "Quick and on time": 2}},
	{name: "Tourist", share: 0.33, tickets: []string{"Day return", "Day return", "Single", "Family", "Family"}, ages: []string{"18-24", "25-34", "35-44", "45-54", "55-64", "65+"}, ramble: 0.25, shout: 0.04,
		glad:    []string{"so much!", "we will be back", "perfect start to the holiday", "our favourite part:", "the children loved it", "first time for us,", "a real surprise:"},
		openers: []string{"we were here on holiday.", "lovely trip but one thing:", "great day out, only one thing:", "first time on the ferry,", "all good except one thing,", "our only grumble:", "coming from inland,", "travelling with {who},", "not a big thing but"},
		closers: []string{"otherwise a lovely day", "but we'd come again", "shame really", "apart from that perfect", "just saying", "would make all the difference", "the kids agreed"},
		changes: map[string]float64{"Food prices": 4, "Food quality": 3.5, "Signs and lanes": 4, "Queues": 2, "Toilets": 2.5, "Announcements": 2, "Dogs": 3, "Children": 3, "Seats": 2, "Delays": 0.6, "Fares": 0.7},
		joys:    map[string]float64{"Views": 4, "Wildlife": 4, "Deck and fresh air": 2, "Fun for children": 3, "Calm": 0.5}},
	{name: "Freight", share: 0.09, tickets: []string{"Freight account"}, ages: []string{"25-34", "35-44", "45-54", "55-64"}, ramble: 0.08, shout: 0.15,
		glad:    []string{"can't complain,", "set me up for the road", "best of a long day:"},
		openers: []string{"driver here,", "from a lorry point of view:", "my hours are running:", "we're paying customers too,", "boss won't like it but"},
		closers: []string{"time is money", "hours are hours", "not good enough", "end of", "the fish won't keep"},
		changes: map[string]float64{"Car deck order": 7, "Queues": 4, "Delays": 3, "Rude staff": 2, "Food quality": 2, "Help from staff": 1.5, "Fares": 1.5, "Wifi": 0.5, "Dogs": 0, "Children": 0},
		joys:    map[string]float64{"Food and drink": 4, "Calm": 3, "Views": 0.3, "Fun for children": 0}},
	{name: "Student", share: 0.09, tickets: []string{"Student", "Student", "Single"}, ages: []string{"16-17", "18-24", "18-24"}, ramble: 0.05, shout: 0.05,
		glad:    []string{"ngl", "10/10", "vibes", "lowkey", "tbh", "loved it"},
		openers: []string{"tbh", "ngl", "ok so", "pls", "honestly", "lol"},
		closers: []string{"thx", "lol", "pls", "im begging", "thats it", "idk"},
		changes: map[string]float64{"Wifi": 7, "Sockets": 6, "Fares": 3, "App and website": 3, "Food prices": 3, "Noise": 0.4, "Access": 0.3, "Parking": 0.2},
		joys:    map[string]float64{"Views": 2, "Calm": 2, "Deck and fresh air": 2}},
}

// routeTopics are topics that one route has more of.
var routeTopics = map[string]map[string]float64{
	"Northern": {"Queues": 2.5, "Parking": 2, "Announcements": 1.5, "Views": 1.5},
	"Sound":    {"Car deck order": 2, "Fumes": 2, "Toilets": 1.5, "Wildlife": 2},
	"Southern": {"Bus and train links": 2.5, "Access": 2, "Seats": 1.5},
}

// waveTopics are topics that one wave has more of.
var waveTopics = map[string]map[string]float64{
	"Spring 2026": {"Temperature": 2, "Cancellations": 1.6},
	"Autumn 2026": {"App and website": 3, "Queues": 1.5, "Fares": 1.4},
}

// foreign answers stay in the language they were given in.
var foreign = []struct{ topic, line string }{
	{"Delays", "Das Schiff war eine Stunde zu spät und niemand hat uns etwas gesagt."}, {"Food prices", "Der Kaffee ist viel zu teuer."},
	{"Toilets", "Bitte die Toiletten öfter putzen!"}, {"Queues", "Wir haben eine Stunde in der Schlange gestanden"}, {"Announcements", "Les annonces ne sont qu'en anglais, c'est dommage."},
	{"Food quality", "Le café était froid et il n'y avait plus rien à manger"}, {"Delays", "Trop de retard, on a raté le train."}, {"Seats", "Más asientos por favor, íbamos de pie"},
}

var refusals = []string{"n/a", "N/A", "na", "no comment", "-", "???", ".", "asdf", "prefer not to say", "No comment", "n/a ", "--"}
