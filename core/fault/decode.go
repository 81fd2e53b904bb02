package fault

import (
	"encoding"
	"encoding/json"
	"math"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"sync"

	fast "github.com/go-json-experiment/json"
	v1 "github.com/go-json-experiment/json/v1"
)

// Strictly reads JSON into what a pointer points to; a key that is not known is
// a fault, and not a loss. Its error is Faults: all that does not fit, each at
// its place, which encoding/json alone does not tell within lists.
func Strictly(data []byte, into any) error { return decode(data, into, true) }

// Loosely is Strictly, but keys that are not known are passed over.
func Loosely(data []byte, into any) error {
	// What is read once and not taken apart is read the faster way; only what is
	// faulty is looked through for its places.
	if fast.Unmarshal(data, into, lenient) == nil {
		return nil
	}
	return decode(data, into, false)
}

// lenient reads what encoding/json reads, and as it does: of a key said twice
// the last counts, and capitals in a key do not.
var lenient = v1.DefaultOptionsV1()

func decode(data []byte, into any, strict bool) error {
	n, err := Read(data)
	if err != nil {
		return err
	}
	return n.bind("", into, strict)
}

// Strictly reads the node into what a pointer points to, as the function of
// that name does. The places of its faults are below at.
func (n *Node) Strictly(at string, into any) error { return n.bind(at, into, true) }

// Loosely is Strictly, but keys that are not known are passed over.
func (n *Node) Loosely(at string, into any) error { return n.bind(at, into, false) }

func (n *Node) bind(at string, into any, strict bool) error {
	b := binding{at: at, strict: strict}
	b.path = b.room[:0]
	b.into(n, reflect.ValueOf(into).Elem())
	return b.faults.Err()
}

// NodeReader is what reads itself from a node. Its error is Faults, with places
// from the node's own.
type NodeReader interface{ ReadNode(n *Node) error }

// step is a key, or an index, on the way to a value.
type step struct {
	key   string
	index int // -1: a key
}

// binding reads nodes into Go values as encoding/json does, but goes on after
// a fault.
type binding struct {
	faults Faults
	strict bool
	at     string
	// path leads from there to the value at hand. It is put in words only where
	// something is wrong.
	path []step
	room [12]step
}

var (
	nodeJSON = reflect.TypeFor[NodeReader]()
	ownJSON  = reflect.TypeFor[json.Unmarshaler]()
	ownText  = reflect.TypeFor[encoding.TextUnmarshaler]()
	ownNode  = reflect.TypeFor[*Node]()
	rawJSON  = reflect.TypeFor[json.RawMessage]()
	anything = reflect.TypeFor[any]()
)

// place is where the value at hand stands.
func (b *binding) place() string {
	at := b.at
	for _, s := range b.path {
		if s.index >= 0 {
			at = Index(at, s.index)
		} else {
			at = Key(at, s.key)
		}
	}
	return at
}

func (b *binding) wrong(format string, args ...any) { b.faults.Add(b.place(), format, args...) }

func (b *binding) unfit(n *Node, t reflect.Type) {
	b.wrong("is %s, but should be %s", n.what(), wanted(t.Kind().String()))
}

// within reads a value that the one at hand holds.
func (b *binding) within(n *Node, v reflect.Value, s step) {
	b.path = append(b.path, s)
	b.into(n, v)
	b.path = b.path[:len(b.path)-1]
}

func (b *binding) into(n *Node, v reflect.Value) {
	t := v.Type()
	switch t {
	case ownNode:
		v.Set(reflect.ValueOf(n))
		return
	case rawJSON:
		v.SetBytes([]byte(n.raw))
		return
	case anything:
		if plain := b.plain(n); plain == nil {
			v.SetZero()
		} else {
			v.Set(reflect.ValueOf(plain))
		}
		return
	}
	k := kindOf(t)
	switch {
	case k.node:
		b.own(v.Addr().Interface().(NodeReader).ReadNode(n))
		return
	case k.json && !(n.kind == isNull && t.Kind() == reflect.Pointer):
		b.own(v.Addr().Interface().(json.Unmarshaler).UnmarshalJSON([]byte(n.raw)))
		return
	case k.text && n.kind == isString:
		b.own(v.Addr().Interface().(encoding.TextUnmarshaler).UnmarshalText([]byte(n.text)))
		return
	case k.text && n.kind != isNull:
		b.unfit(n, t)
		return
	}
	if n.kind == isNull {
		switch t.Kind() {
		case reflect.Pointer, reflect.Interface, reflect.Map, reflect.Slice:
			v.SetZero()
		}
		return
	}
	switch t.Kind() {
	case reflect.Pointer:
		if v.IsNil() {
			v.Set(reflect.New(t.Elem()))
		}
		b.into(n, v.Elem())
	case reflect.Struct:
		b.intoStruct(n, v, k)
	case reflect.Map:
		b.intoMap(n, v)
	case reflect.Slice:
		if n.kind != isArray {
			b.bytes(n, v)
			return
		}
		v.Set(reflect.MakeSlice(t, len(n.held), len(n.held)))
		for i := range n.held {
			b.within(&n.held[i], v.Index(i), step{index: i})
		}
	case reflect.Array:
		if n.kind != isArray {
			b.unfit(n, t)
			return
		}
		for i := range v.Len() {
			if i < len(n.held) {
				b.within(&n.held[i], v.Index(i), step{index: i})
			} else {
				v.Index(i).SetZero()
			}
		}
	default:
		b.scalar(n, v)
	}
}

func (b *binding) intoStruct(n *Node, v reflect.Value, k *kind) {
	if n.kind != isObject {
		b.unfit(n, v.Type())
		return
	}
	for i := range n.held {
		m := &n.held[i]
		if f := k.field(m.key); f != nil {
			b.within(m, f.of(v), step{m.key, -1})
		} else if b.strict {
			b.faults.Add(Key(b.place(), m.key), "is not a key known here")
		}
	}
}

func (b *binding) intoMap(n *Node, v reflect.Value) {
	t := v.Type()
	if n.kind != isObject || t.Key().Kind() != reflect.String {
		b.unfit(n, t)
		return
	}
	if v.IsNil() {
		v.Set(reflect.MakeMapWithSize(t, len(n.held)))
	}
	for i := range n.held {
		m := &n.held[i]
		value := reflect.New(t.Elem()).Elem()
		b.within(m, value, step{m.key, -1})
		v.SetMapIndex(reflect.ValueOf(m.key).Convert(t.Key()), value)
	}
}

// plain is a value as encoding/json has it in an any.
func (b *binding) plain(n *Node) any {
	switch n.kind {
	case isTrue, isFalse:
		return n.kind == isTrue
	case isNumber:
		f, err := strconv.ParseFloat(n.raw, 64)
		if err != nil {
			b.wrong("is larger than any number that can be kept")
		}
		return f
	case isString:
		return n.text
	case isArray:
		list := make([]any, len(n.held))
		for i := range n.held {
			b.path = append(b.path, step{index: i})
			list[i] = b.plain(&n.held[i])
			b.path = b.path[:len(b.path)-1]
		}
		return list
	case isObject:
		object := make(map[string]any, len(n.held))
		for i := range n.held {
			m := &n.held[i]
			b.path = append(b.path, step{m.key, -1})
			object[m.key] = b.plain(m)
			b.path = b.path[:len(b.path)-1]
		}
		return object
	}
	return nil
}

// own notes what a type's own reading found.
func (b *binding) own(err error) {
	if err == nil {
		return
	}
	at := b.place()
	for _, f := range Of(err) {
		if f.Message == err.Error() {
			f = JSON(err)
		}
		b.faults.Add(Join(at, f.At), "%s", f.Message)
	}
}

// bytes reads a base64 text, as encoding/json does, or says that it is no list.
func (b *binding) bytes(n *Node, v reflect.Value) {
	if n.kind != isString || v.Type().Elem().Kind() != reflect.Uint8 {
		b.unfit(n, v.Type())
		return
	}
	b.own(json.Unmarshal([]byte(n.raw), v.Addr().Interface()))
}

func (b *binding) scalar(n *Node, v reflect.Value) {
	k := v.Kind()
	switch {
	case k == reflect.String && n.kind == isString:
		v.SetString(n.text)
		return
	case k == reflect.Bool && (n.kind == isTrue || n.kind == isFalse):
		v.SetBool(n.kind == isTrue)
		return
	case n.kind == isNumber && k >= reflect.Int && k <= reflect.Int64:
		if i, err := strconv.ParseInt(n.raw, 10, 64); err == nil && !v.OverflowInt(i) {
			v.SetInt(i)
			return
		}
	case n.kind == isNumber && k >= reflect.Uint && k <= reflect.Uint64:
		if i, err := strconv.ParseUint(n.raw, 10, 64); err == nil && !v.OverflowUint(i) {
			v.SetUint(i)
			return
		}
	case n.kind == isNumber && (k == reflect.Float64 || k == reflect.Float32):
		if f, err := strconv.ParseFloat(n.raw, v.Type().Bits()); err == nil && !math.IsInf(f, 0) {
			v.SetFloat(f)
			return
		}
	}
	b.unfit(n, v.Type())
}

// kind is what is to know of a Go type, once.
type kind struct {
	node, json, text bool // it reads itself
	fields           map[string]*field
}

type field struct{ path []int }

// of gives the field within a struct, making what is embedded by pointer.
func (f *field) of(v reflect.Value) reflect.Value {
	for _, i := range f.path {
		if v.Kind() == reflect.Pointer {
			if v.IsNil() {
				v.Set(reflect.New(v.Type().Elem()))
			}
			v = v.Elem()
		}
		v = v.Field(i)
	}
	return v
}

var kinds sync.Map // reflect.Type → *kind

func kindOf(t reflect.Type) *kind {
	if k, ok := kinds.Load(t); ok {
		return k.(*kind)
	}
	p := reflect.PointerTo(t)
	k := &kind{node: p.Implements(nodeJSON), json: p.Implements(ownJSON), text: p.Implements(ownText)}
	if t.Kind() == reflect.Struct {
		k.fields = map[string]*field{}
		fieldsOf(t, nil, k.fields)
	}
	kinds.Store(t, k)
	return k
}

// fieldsOf gathers the keys that a struct reads; an outer one hides those of
// the structs embedded in it.
func fieldsOf(t reflect.Type, path []int, into map[string]*field) {
	var embedded []int
	for i := range t.NumField() {
		f := t.Field(i)
		name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
		switch {
		case f.Tag.Get("json") == "-":
			continue
		case f.Anonymous && name == "" && f.Type.Kind() == reflect.Struct:
			embedded = append(embedded, i)
			continue
		case !f.IsExported():
			continue
		case name == "":
			name = f.Name
		}
		if into[name] == nil {
			into[name] = &field{append(slices.Clone(path), i)}
		}
	}
	for _, i := range embedded {
		fieldsOf(t.Field(i).Type, append(slices.Clone(path), i), into)
	}
}

// field finds a key as encoding/json does: as it is written, else whatever its case.
func (k *kind) field(key string) *field {
	if f := k.fields[key]; f != nil {
		return f
	}
	for name, f := range k.fields {
		if strings.EqualFold(name, key) {
			return f
		}
	}
	return nil
}
