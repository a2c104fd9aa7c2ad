package main
import ("testing";"os";"compactparcel/core/folder";"compactparcel/core/repeat";"compactparcel/core/facts";"compactparcel/core/item")
func BenchmarkRead(b *testing.B){ dir:="/tmp/bs"; if _,e:=os.Stat(dir);e!=nil{ makeSite(dir,size{2000,40,3000,2000}) }
 for range b.N { folder.Read(os.DirFS(dir)) } }
func BenchmarkFind(b *testing.B){ set,_,_:=folder.Read(os.DirFS("/tmp/bs")); b.ResetTimer(); for range b.N { repeat.Find(set) } }
func BenchmarkAccept(b *testing.B){ set,_,_:=folder.Read(os.DirFS("/tmp/bs")); b.ResetTimer(); for range b.N { repeat.Accept(set,nil,true) } }
func BenchmarkOf(b *testing.B){ t,_:=os.ReadFile("/tmp/bs/pages/00/0000.html"); b.SetBytes(int64(len(t))); for range b.N { facts.Of(item.Page,"",t)} }
