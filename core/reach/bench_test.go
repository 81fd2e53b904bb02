package reach

import "testing"

func BenchmarkJudge(b *testing.B) {
	p, err := Read([]byte(`{"all":[{"fact":"page.path","op":"starts_with","value":"/journal"},{"not":{"fact":"device.kind","op":"is","value":"phone"}},{"fact":"source.channel","op":"in","value":["search","email","social"]},
		{"fact":"visitor.visits","op":"gte","value":2},{"fact":"place.country","op":"is","value":"IE"},{"fact":"device.language","op":"starts_with","value":"en"},{"fact":"visitor.lead","op":"is","value":false},
		{"any":[{"fact":"page.title","op":"contains","value":"celadon"},{"fact":"data.basket_total","op":"between","value":[20,200]},{"fact":"page.path","op":"like","value":"*ash*"}]}]}`))
	if err != nil {
		b.Fatal(err)
	}
	v := &Visit{}
	for name, is := range map[string]any{"page.path": "/journal/ash-glaze", "device.kind": "desktop", "source.channel": "email", "visitor.visits": 3, "place.country": "IE", "device.language": "en-IE", "visitor.lead": false, "page.title": "What the ash knows", "data.basket_total": 42} {
		v.Set(name, is)
	}
	for b.Loop() {
		if p.Judge(v) != Yes {
			b.Fatal("no")
		}
	}
}
