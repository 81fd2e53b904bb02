package fault

import (
	"bytes"
	"encoding"
	"encoding/json"
	"maps"
	"reflect"
	"slices"
	"strings"
)

// Strictly reads JSON into what a pointer points to; a key that is not known is
// a fault, and not a loss. Its error is Faults: all that does not fit, each at
// its place, which encoding/json alone does not tell within lists.
func Strictly(data []byte, into any) error { return decode(data, into, true) }

// Loosely is Strictly, but keys that are not known are passed over.
func Loosely(data []byte, into any) error { return decode(data, into, false) }

func decode(data []byte, into any, strict bool) error {
	var err error
	if strict {
		d := json.NewDecoder(bytes.NewReader(data))
		d.DisallowUnknownFields()
		err = d.Decode(into)
	} else {
		err = json.Unmarshal(data, into)
	}
	if err == nil {
		return nil
	}
	// Only what is faulty is looked through a second time.
	var whole any
	if wrong := json.Unmarshal(data, &whole); wrong != nil {
		return Faults{JSON(wrong)}
	}
	l := look{strict: strict}
	l.through(whole, reflect.TypeOf(into).Elem(), "")
	if len(l.faults) == 0 {
		return Faults{JSON(err)}
	}
	return l.faults
}

// look goes through a document beside the type it should be of.
type look struct {
	faults Faults
	strict bool
}

var (
	ownJSON = reflect.TypeFor[json.Unmarshaler]()
	ownText = reflect.TypeFor[encoding.TextUnmarshaler]()
)

func (l *look) through(v any, t reflect.Type, at string) {
	if v == nil {
		return // null leaves things as they are
	}
	if p := reflect.PointerTo(t); p.Implements(ownJSON) || p.Implements(ownText) {
		l.alone(v, t, at)
		return
	}
	switch t.Kind() {
	case reflect.Pointer:
		l.through(v, t.Elem(), at)
	case reflect.Interface:
	case reflect.Struct:
		object, ok := v.(map[string]any)
		if !ok {
			l.alone(v, t, at)
			return
		}
		known := map[string]reflect.Type{}
		fields(t, known)
		for _, key := range slices.Sorted(maps.Keys(object)) {
			if field, ok := fieldOf(known, key); ok {
				l.through(object[key], field, Key(at, key))
			} else if l.strict {
				l.faults.Add(Key(at, key), "is not a key known here")
			}
		}
	case reflect.Map:
		object, ok := v.(map[string]any)
		if !ok {
			l.alone(v, t, at)
			return
		}
		for _, key := range slices.Sorted(maps.Keys(object)) {
			l.through(object[key], t.Elem(), Key(at, key))
		}
	case reflect.Slice, reflect.Array:
		list, ok := v.([]any)
		if !ok {
			l.alone(v, t, at)
			return
		}
		for i, one := range list {
			l.through(one, t.Elem(), Index(at, i))
		}
	default:
		l.alone(v, t, at)
	}
}

// alone notes what is wrong with one value by reading it by itself.
func (l *look) alone(v any, t reflect.Type, at string) {
	raw, err := json.Marshal(v)
	if err == nil {
		err = json.Unmarshal(raw, reflect.New(t).Interface())
	}
	if err == nil {
		return
	}
	for _, f := range Of(err) {
		if f.Message == err.Error() {
			f = JSON(err)
		}
		l.faults.Add(Join(at, f.At), "%s", f.Message)
	}
}

// fields gives the keys that a struct reads, with those of the structs embedded in it.
func fields(t reflect.Type, into map[string]reflect.Type) {
	for i := range t.NumField() {
		f := t.Field(i)
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		switch {
		case name == "-":
		case f.Anonymous && name == "" && f.Type.Kind() == reflect.Struct:
			fields(f.Type, into)
		case !f.IsExported():
		case name == "":
			into[f.Name] = f.Type
		default:
			into[name] = f.Type
		}
	}
}

// fieldOf finds a key as encoding/json does: as it is written, else whatever its case.
func fieldOf(known map[string]reflect.Type, key string) (reflect.Type, bool) {
	if t, ok := known[key]; ok {
		return t, true
	}
	for name, t := range known {
		if strings.EqualFold(name, key) {
			return t, true
		}
	}
	return nil, false
}
