package geometry
import ("testing";"time";"fmt";"hammerset/core/part";"hammerset/core/quantity";"hammerset/core/solid";"hammerset/kernel/occ")
type timed struct{ occ.Kernel; t map[string]time.Duration; n map[string]int }
func (k timed) add(n string, s time.Time){ k.t[n]+=time.Since(s); k.n[n]++ }
func (k timed) Boolean(op solid.Operation,a solid.Shape,b []solid.Shape)(solid.Shape,solid.History,error){ s:=time.Now(); defer k.add("boolean",s); return k.Kernel.Boolean(op,a,b)}
func (k timed) Simplify(a solid.Shape)(solid.Shape,solid.History,error){ s:=time.Now(); defer k.add("simplify",s); return k.Kernel.Simplify(a)}
func (k timed) Check(a solid.Shape)error{ s:=time.Now(); defer k.add("check",s); return k.Kernel.Check(a)}
func (k timed) Bounds(a solid.Shape)(solid.Box,error){ s:=time.Now(); defer k.add("bounds",s); return k.Kernel.Bounds(a)}
func (k timed) Fillet(a solid.Shape,e []int,r []float64)(solid.Shape,solid.History,error){ s:=time.Now(); defer k.add("fillet",s); return k.Kernel.Fillet(a,e,r)}
func (k timed) Prism(p solid.Profile,v solid.Vec)(solid.Shape,solid.History,error){ s:=time.Now(); defer k.add("prism",s); return k.Kernel.Prism(p,v)}
func (k timed) Revolve(p solid.Profile,o,v solid.Vec,a float64)(solid.Shape,solid.History,error){ s:=time.Now(); defer k.add("revolve",s); return k.Kernel.Revolve(p,o,v,a)}
func TestTime(t *testing.T){
 b := demoExercise(t, "bearing-bracket")
 k := timed{t:map[string]time.Duration{},n:map[string]int{}}
 r := part.NewRebuilder(k)
 r.Rebuild(ctx,b.ref.Document,nil)
 for x := range k.t { delete(k.t,x); delete(k.n,x) }
 s := time.Now()
 for i := range 10 { r.Rebuild(ctx,b.ref.Document,map[string]quantity.Quantity{"width":{Value:120+float64(i)+1,Dim:quantity.Length}}) }
 fmt.Println("ten", time.Since(s), len(b.ref.Document.Steps))
 for x := range k.t { fmt.Println(x,k.n[x],k.t[x]) }
 x,_ := r.Rebuild(ctx,b.ref.Document,nil)
 y,_,_ := (occ.Kernel{}).Transform(x.Solid.Shape, solid.Identity)
 s = time.Now(); y.Edges(); fmt.Println("edges", time.Since(s))
 s = time.Now(); y.Faces(); fmt.Println("faces", time.Since(s), len(y.Faces()))
}
