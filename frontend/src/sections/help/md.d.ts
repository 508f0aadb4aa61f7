declare module "*.md?help" {
  const page: { title: string; sections: { id: string; title: string; html: string; text: string }[] };
  export default page;
}
